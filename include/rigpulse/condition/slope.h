/* slope (filtered derivative): the change of a quantity, in its unit a second: the difference quotient behind a
 * first-order low pass of the given time constant, so that a steady ramp gives its slope for every time constant. 0 for
 * the first reading. Bad readings are passed on as bad with the last slope; the time goes on. */
#ifndef RIGPULSE_CONDITION_SLOPE_H
#define RIGPULSE_CONDITION_SLOPE_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_slope_config {
    float time_constant; /* seconds; above 0, at most 1e6 */
} rgp_slope_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_slope_state {
    uint64_t gap_us;   /* without a usable reading */
    float before;      /* the last usable reading */
    float slope, lost; /* the slope, and what it has not been able to hold */
    uint32_t known;    /* 1: there was a usable reading */
} rgp_slope_state;

/* RGP_E_CONFIG unless the time constant is above 0 and at most 1e6 s. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_slope_check(const rgp_slope_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_slope_fault(const rgp_slope_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_slope_reset(rgp_slope_state *state);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_slope_step(const rgp_slope_config *config, rgp_slope_state *state, rgp_reading in,
                                         float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/slope.h"

#endif
