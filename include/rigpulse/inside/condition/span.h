/* The inside of rigpulse/condition/span.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_SPAN_H
#define RIGPULSE_INSIDE_CONDITION_SPAN_H

#include "rigpulse/condition/span.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

/* The part of a step during the practice. */
void rgp_span_learn(const rgp_span_config *config, rgp_span_state *state, float value, float dt);

static inline rgp_reading rgp_span_step(const rgp_span_config *config, rgp_span_state *state, rgp_reading in, float dt)
{
    if (!state->learned && rgp_usable(in.quality) && dt > 0.0f) {
        rgp_span_learn(config, state, in.value, dt);
    }
    if (!state->learned) {
        return rgp_reading_of(0.0f, rgp_worst(in.quality, RGP_LEARNING));
    }
    float share = (in.value - state->low) / (state->high - state->low);
    share = share < 0.0f ? 0.0f : share > 1.0f ? 1.0f : share;
    return rgp_reading_of(100.0f * (config->falling ? 1.0f - share : share), in.quality);
}

RGP_DECLARATIONS_END

#endif
