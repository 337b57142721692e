/* The inside of rigpulse/condition/unwrap.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_UNWRAP_H
#define RIGPULSE_INSIDE_CONDITION_UNWRAP_H

#include "rigpulse/condition/unwrap.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

/* The part of a step for a bad reading, and with the first usable one behind it. */
void rgp_unwrap_miss(rgp_unwrap_state *state, rgp_quality quality, float dt);

void rgp_unwrap_resume(const rgp_unwrap_config *config, rgp_unwrap_state *state, float dt);

/* The part of a step for a usable reading: the seams that it has crossed since the last one, by its change. */
static inline void rgp__unwrap_cross(const rgp_unwrap_config *config, rgp_unwrap_state *state, float change, float dt)
{
    const float half = 0.5f * config->turn;
    if (state->missed > 0) {
        rgp_unwrap_resume(config, state, dt);
    }
    if (state->known && change > half && state->turns > INT32_MIN) {
        state->turns--;
    } else if (state->known && change < -half && state->turns < INT32_MAX) {
        state->turns++;
    }
    state->known = 1;
}

static inline rgp_reading rgp_unwrap_step(const rgp_unwrap_config *config, rgp_unwrap_state *state, rgp_reading in,
                                          float dt)
{
    if (!rgp_usable(in.quality) && dt > 0.0f) {
        rgp_unwrap_miss(state, in.quality, dt);
    } else if (dt > 0.0f) {
        rgp__unwrap_cross(config, state, in.value - state->last, dt);
        state->last = in.value;
    }
    const float from = state->known ? state->last : in.value;
    return rgp_number(from + (float)state->turns * config->turn, rgp_worst(in.quality, state->lost));
}

RGP_DECLARATIONS_END

#endif
