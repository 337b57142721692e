/* unwrap: a reading that jumps back after each turn becomes one that goes on. A change of more than half a turn from
 * one usable reading to the next counts as a crossing of the seam. */
#ifndef RIGPULSE_CONDITION_UNWRAP_H
#define RIGPULSE_CONDITION_UNWRAP_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_unwrap_config {
    float turn; /* input unit; above 0 */
} rp_unwrap_config;

typedef struct rp_unwrap_state {
    float last;
    int32_t turns;
    uint32_t known;
} rp_unwrap_state;

/* RP_E_CONFIG when the turn is not finite or not above 0. */
rp_status rp_unwrap_check(const rp_unwrap_config *config);

void rp_unwrap_reset(rp_unwrap_state *state);

/* dt in seconds; dt = 0 steps no state. */
static inline rp_reading rp_unwrap_step(const rp_unwrap_config *config, rp_unwrap_state *state, rp_reading in, float dt)
{
    if (rp_usable(in.quality) && dt > 0.0f) {
        const float change = in.value - state->last, half = 0.5f * config->turn;
        if (state->known && change > half && state->turns > INT32_MIN) {
            state->turns--;
        } else if (state->known && change < -half && state->turns < INT32_MAX) {
            state->turns++;
        }
        state->known = 1;
        state->last = in.value;
    }
    const float from = state->known ? state->last : in.value;
    return rp_number(from + (float)state->turns * config->turn, in.quality);
}

#endif
