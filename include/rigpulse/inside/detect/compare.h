/* The inside of rigpulse/detect/compare.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DETECT_COMPARE_H
#define RIGPULSE_INSIDE_DETECT_COMPARE_H

#include "rigpulse/detect/compare.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_compare_step(const rgp_compare_config *config, rgp_compare_state *state, rgp_reading in,
                                           float dt)
{
    if (rgp_usable(in.quality) && dt > 0.0f) {
        const float margin = state->is ? config->margin : 0.0f;
        state->is =
            config->side == RGP_COMPARE_ABOVE ? in.value > config->limit - margin : in.value < config->limit + margin;
    }
    return rgp_reading_of(state->is ? 1.0f : 0.0f, in.quality);
}

RGP_DECLARATIONS_END

#endif
