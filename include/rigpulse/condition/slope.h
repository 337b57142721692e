/* slope (filtered derivative): the change of a quantity, in its unit a second: the difference quotient behind a
 * first-order low pass of the given time constant, so that a steady ramp gives its slope for every time constant. 0 for
 * the first reading. Bad readings are passed on as bad with the last slope; the time goes on. */
#ifndef RIGPULSE_CONDITION_SLOPE_H
#define RIGPULSE_CONDITION_SLOPE_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_slope_config {
    float time_constant; /* seconds; above 0, at most 1e6 */
} rgp_slope_config;

typedef struct rgp_slope_state {
    uint64_t gap_us;   /* without a usable reading */
    float before;      /* the last usable reading */
    float slope, lost; /* the slope, and what it has not been able to hold */
    uint32_t known;
} rgp_slope_state;

/* RGP_E_CONFIG unless the time constant is above 0 and at most 1e6 s. */
rgp_status rgp_slope_check(const rgp_slope_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_slope_fault(const rgp_slope_config *config);

void rgp_slope_reset(rgp_slope_state *state);

/* dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_slope_step(const rgp_slope_config *config, rgp_slope_state *state, rgp_reading in,
                                         float dt)
{
    if (!rgp_usable(in.quality) || !(dt > 0.0f)) {
        state->gap_us += rgp_microseconds(dt);
        return rgp_reading_of(state->slope, in.quality);
    }
    if (state->gap_us > 0) {
        dt += rgp_seconds(state->gap_us);
        state->gap_us = 0;
    }
    if (state->known) {
        const float now = (in.value - state->before) / dt, way = (now - state->slope) - state->lost;
        rgp_add(&state->slope, &state->lost, rgp_decay(dt / config->time_constant) * way);
    }
    state->known = 1;
    state->before = in.value;
    if (!rgp_finite(state->slope) || !rgp_finite(state->lost)) {
        state->gap_us = 0;
        state->slope = state->lost = 0.0f;
        return rgp_reading_of(0.0f, RGP_OUT_OF_RANGE);
    }
    return rgp_reading_of(state->slope, in.quality);
}

RGP_DECLARATIONS_END

#endif
