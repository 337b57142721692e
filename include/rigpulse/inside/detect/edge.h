/* The inside of rigpulse/detect/edge.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DETECT_EDGE_H
#define RIGPULSE_INSIDE_DETECT_EDGE_H

#include "rigpulse/detect/edge.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_edge_step(const rgp_edge_config *config, rgp_edge_state *state, rgp_reading in, float dt)
{
    if (!rgp_usable(in.quality) || dt <= 0.0f) {
        return rgp_reading_of(0.0f, in.quality);
    }
    const uint8_t is = in.value != 0.0f;
    const uint32_t edge = is ? RGP_EDGE_RISE : RGP_EDGE_FALL;
    const bool happened = state->known && is != state->is && (config->which & edge);
    state->known = 1;
    state->is = is;
    return rgp_reading_of(happened ? 1.0f : 0.0f, in.quality);
}

RGP_DECLARATIONS_END

#endif
