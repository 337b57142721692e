/* The inside of rigpulse/detect/bands.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DETECT_BANDS_H
#define RIGPULSE_INSIDE_DETECT_BANDS_H

#include "rigpulse/detect/bands.h"

RGP_DECLARATIONS_BEGIN

/* The part of rgp_bands_step() for when the quantity is not well inside the band that it was in. */
uint32_t rgp_bands_move(const rgp_bands_config *config, rgp_bands_state *state, float value);

static inline rgp_reading rgp_bands_step(const rgp_bands_config *config, rgp_bands_state *state, rgp_reading in,
                                         float dt)
{
    uint32_t k = state->band;
    if (rgp_usable(in.quality) && dt > 0.0f) {
        const float *const border = config->border + k;
        const bool inside =
            state->known && (k == config->borders || in.value < border[0]) && (k == 0 || in.value > border[-1]);
        if (!inside) {
            k = rgp_bands_move(config, state, in.value);
        }
    }
    return rgp_reading_of((float)k, in.quality);
}

RGP_DECLARATIONS_END

#endif
