/* changed (change detector): a named value (a band, a switch) becoming any other: 1 for one step, else 0.
 *
 * As for an edge (edge.h), the first usable input sets the state without a change, and a bad one neither steps it nor
 * gives one.
 */
#ifndef RIGPULSE_DETECT_CHANGED_H
#define RIGPULSE_DETECT_CHANGED_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_changed_config {
    uint32_t reserved; /* 0 */
} rgp_changed_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_changed_state {
    float last;     /* usable input */
    uint32_t known; /* 1: there was one */
} rgp_changed_state;

/* RGP_E_CONFIG unless the reserved field is 0. A constant, which lives for ever. */
static inline const char *rgp_changed_fault(const rgp_changed_config *c);

/* RGP_E_CONFIG when a setting is outside its range, else RGP_OK. Only the settings are looked at. */
static inline rgp_status rgp_changed_check(const rgp_changed_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
static inline void rgp_changed_reset(rgp_changed_state *state);

/* dt in seconds; dt = 0 steps no state and gives no change.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_changed_step(const rgp_changed_config *config, rgp_changed_state *state, rgp_reading in,
                                           float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/detect/changed.h"

#endif
