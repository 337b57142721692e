/* slope: how fast a quantity changes, in its unit a second: the derivative behind a first-order low pass of the given
 * time constant. 0 for the first reading. Bad readings are passed on as bad with the last slope; the time goes on. */
#ifndef RIGPULSE_CONDITION_SLOPE_H
#define RIGPULSE_CONDITION_SLOPE_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_slope_config {
    float time_constant; /* seconds; above 0, at most 1e6 */
} rp_slope_config;

typedef struct rp_slope_state {
    float level; /* of the low pass */
    float slope;
    float gap; /* seconds without a usable reading */
    uint32_t known;
} rp_slope_state;

/* RP_E_CONFIG unless the time constant is above 0 and at most 1e6 s. */
rp_status rp_slope_check(const rp_slope_config *config);

void rp_slope_reset(rp_slope_state *state);

/* dt in seconds; dt = 0 steps no state. */
static inline rp_reading rp_slope_step(const rp_slope_config *config, rp_slope_state *state, rp_reading in, float dt)
{
    if (!rp_usable(in.quality) || dt <= 0.0f) {
        state->gap += dt;
        return (rp_reading){state->slope, in.quality};
    }
    if (!state->known) {
        state->known = 1;
        state->level = in.value;
    }
    state->level += rp_decay((dt + state->gap) / config->time_constant) * (in.value - state->level);
    state->gap = 0.0f;
    const rp_reading slope = rp_number((in.value - state->level) / config->time_constant, in.quality);
    state->slope = slope.value;
    return slope;
}

#endif
