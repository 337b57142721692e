/* approach (position servo): the power that brings a mechanism to a place: full far from it, less and less within
 * `slowing` of it, none within a tolerance.
 *
 * It starts again only when it is off by twice the tolerance, so that noise does not set it going. Of what goes round,
 * the nearer way is taken. */
#ifndef RIGPULSE_DRIVE_APPROACH_H
#define RIGPULSE_DRIVE_APPROACH_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_approach_config {
    float slowing; /* in the place's unit; above 0 */
    float within;  /* in the place's unit; from 0 to `slowing` */
    float turn;    /* of what goes round: one turn, in the place's unit; 0: it does not */
} rgp_approach_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_approach_state {
    uint32_t there; /* 1: it stands within the tolerance */
} rgp_approach_state;

/* RGP_E_CONFIG when a setting is outside its range. A constant, which lives for ever. */
static inline const char *rgp_approach_fault(const rgp_approach_config *c);

/* RGP_E_CONFIG when a setting is outside its range, else RGP_OK. Only the settings are looked at. */
static inline rgp_status rgp_approach_check(const rgp_approach_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
static inline void rgp_approach_reset(rgp_approach_state *state);

/* Percent, -100 to 100. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_approach_step(const rgp_approach_config *config, rgp_approach_state *state,
                                            rgp_reading place, rgp_reading target, float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/drive/approach.h"

#endif
