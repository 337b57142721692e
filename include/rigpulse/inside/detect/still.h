/* The inside of rigpulse/detect/still.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DETECT_STILL_H
#define RIGPULSE_INSIDE_DETECT_STILL_H

#include "rigpulse/detect/still.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_still_step(const rgp_still_config *config, rgp_still_state *state, rgp_reading in,
                                         float dt)
{
    if (rgp_usable(in.quality) && dt > 0.0f) {
        const float away = in.value - state->at;
        if (!state->known || away > config->within || away < -config->within) {
            state->known = 1;
            state->at = in.value;
            state->since_us = 0;
        } else {
            state->since_us += rgp_microseconds(dt);
        }
    }
    const bool is = state->known && state->since_us >= rgp_microseconds(config->time);
    return rgp_reading_of(is ? 1.0f : 0.0f, in.quality);
}

RGP_DECLARATIONS_END

#endif
