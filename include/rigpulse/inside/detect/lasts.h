/* The inside of rigpulse/detect/lasts.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DETECT_LASTS_H
#define RIGPULSE_INSIDE_DETECT_LASTS_H

#include "rigpulse/detect/lasts.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_lasts_step(const rgp_lasts_config *config, rgp_lasts_state *state, rgp_reading in,
                                         float dt)
{
    if (rgp_usable(in.quality) && dt > 0.0f) {
        const uint8_t is_true = in.value != 0.0f;
        if (!is_true || !state->is_true) {
            state->since_us = 0;
            state->is = 0;
        } else if (!state->is) {
            state->since_us += rgp_microseconds(dt);
            state->is = state->since_us >= rgp_microseconds(config->time);
        }
        state->is_true = is_true;
    }
    return rgp_reading_of(state->is ? 1.0f : 0.0f, in.quality);
}

RGP_DECLARATIONS_END

#endif
