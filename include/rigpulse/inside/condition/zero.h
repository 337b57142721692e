/* The inside of rigpulse/condition/zero.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_ZERO_H
#define RIGPULSE_INSIDE_CONDITION_ZERO_H

#include "rigpulse/condition/zero.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

/* The part of a step before the offset is known. */
void rgp_zero_learn(const rgp_zero_config *config, rgp_zero_state *state, float value, rgp_quality quality, float dt);

static inline rgp_reading rgp_zero_step(const rgp_zero_config *config, rgp_zero_state *state, rgp_reading in, float dt)
{
    if (state->phase != RGP_ZERO_LEARNED) {
        rgp_zero_learn(config, state, in.value, in.quality, dt);
        if (state->phase != RGP_ZERO_LEARNED) {
            return rgp_reading_of(in.value, rgp_worst(in.quality, RGP_LEARNING));
        }
    }
    return rgp_reading_of(in.value - (float)state->base - state->offset, in.quality);
}

RGP_DECLARATIONS_END

#endif
