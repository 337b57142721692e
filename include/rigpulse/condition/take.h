/* take (sample and hold): readings that count only while a condition is true, as of a sensor that is asked while its
 * arm stands still.
 *
 * While it is not, or cannot be known, the last one that was taken stands, as held; before there is one it is missing.
 */
#ifndef RIGPULSE_CONDITION_TAKE_H
#define RIGPULSE_CONDITION_TAKE_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_take_config {
    uint32_t reserved; /* 0 */
} rgp_take_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_take_state {
    float value;    /* the last one that was taken */
    uint32_t known; /* 1: there was one */
} rgp_take_state;

/* RGP_E_CONFIG unless the reserved field is 0. A constant, which lives for ever. */
static inline const char *rgp_take_fault(const rgp_take_config *c);

/* RGP_E_CONFIG when a setting is outside its range, else RGP_OK. Only the settings are looked at. */
static inline rgp_status rgp_take_check(const rgp_take_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
static inline void rgp_take_reset(rgp_take_state *state);

/* A bad reading while the condition is true is passed on as it is. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_take_step(const rgp_take_config *config, rgp_take_state *state, rgp_reading in,
                                        rgp_reading condition, float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/take.h"

#endif
