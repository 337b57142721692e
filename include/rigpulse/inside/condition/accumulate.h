/* The inside of rigpulse/condition/accumulate.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_ACCUMULATE_H
#define RIGPULSE_INSIDE_CONDITION_ACCUMULATE_H

#include "rigpulse/condition/accumulate.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_accumulate_step(const rgp_accumulate_config *config, rgp_accumulate_state *state,
                                              rgp_reading in, float dt)
{
    if (!rgp_usable(in.quality)) {
        state->lost = state->known && dt > 0.0f ? in.quality : state->lost;
        return rgp_reading_of(state->sum, in.quality);
    }
    if (dt > 0.0f) {
        const float before = state->known ? state->rate : in.value;
        const float step = 0.5f * (before + in.value) * dt * config->gain + state->rest;
        const float sum = state->sum + step;
        state->rest = state->known ? step - (sum - state->sum) : 0.0f;
        state->sum = state->known && rgp_finite(sum) ? sum : state->sum;
        state->rate = in.value;
        state->known = 1;
    }
    return rgp_reading_of(state->sum, rgp_worst(in.quality, state->lost));
}

RGP_DECLARATIONS_END

#endif
