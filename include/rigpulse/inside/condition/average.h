/* The inside of rigpulse/condition/average.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_AVERAGE_H
#define RIGPULSE_INSIDE_CONDITION_AVERAGE_H

#include "rigpulse/condition/average.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

/* Takes a usable reading in. */
void rgp_average_take(const rgp_average_config *config, rgp_average_state *state, float value);

static inline rgp_reading rgp_average_step(const rgp_average_config *config, rgp_average_state *state, rgp_reading in,
                                           float dt)
{
    if (dt > 0.0f) {
        if (rgp_usable(in.quality)) {
            rgp_average_take(config, state, in.value);
        } else if (++state->missed >= config->window) {
            rgp_average_reset(state);
        }
    }
    const float n = (float)state->filled;
    return state->filled ? rgp_number(state->sum / n, in.quality) : in;
}

RGP_DECLARATIONS_END

#endif
