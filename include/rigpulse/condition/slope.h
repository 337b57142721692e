/* slope: how fast a quantity changes, in its unit a second: the difference quotient behind a first-order low pass of
 * the given time constant, so that a steady ramp gives its slope for every time constant. 0 for the first reading. Bad
 * readings are passed on as bad with the last slope; the time goes on. */
#ifndef RIGPULSE_CONDITION_SLOPE_H
#define RIGPULSE_CONDITION_SLOPE_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_slope_config {
    float time_constant; /* seconds; above 0, at most 1e6 */
} rp_slope_config;

typedef struct rp_slope_state {
    uint64_t gap_us;   /* without a usable reading */
    float before;      /* the last usable reading */
    float slope, lost; /* the slope, and what it has not been able to hold */
    uint32_t known;
} rp_slope_state;

/* RP_E_CONFIG unless the time constant is above 0 and at most 1e6 s. */
rp_status rp_slope_check(const rp_slope_config *config);

void rp_slope_reset(rp_slope_state *state);

/* dt in seconds; dt = 0 steps no state. */
static inline rp_reading rp_slope_step(const rp_slope_config *config, rp_slope_state *state, rp_reading in, float dt)
{
    if (!rp_usable(in.quality) || !(dt > 0.0f)) {
        state->gap_us += rp_microseconds(dt);
        return (rp_reading){state->slope, in.quality};
    }
    if (state->gap_us > 0) {
        dt += rp_seconds(state->gap_us);
        state->gap_us = 0;
    }
    if (state->known) {
        const float now = (in.value - state->before) / dt, way = (now - state->slope) - state->lost;
        rp_add(&state->slope, &state->lost, rp_decay(dt / config->time_constant) * way);
    }
    state->known = 1;
    state->before = in.value;
    if (!rp_finite(state->slope) || !rp_finite(state->lost)) {
        *state = (rp_slope_state){.known = 1, .before = in.value};
        return (rp_reading){0.0f, RP_OUT_OF_RANGE};
    }
    return (rp_reading){state->slope, in.quality};
}

#endif
