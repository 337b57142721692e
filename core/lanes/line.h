/* line, by four: known everywhere, and no result that a float cannot hold. */
#ifndef RIGPULSE_LANES_LINE_H
#define RIGPULSE_LANES_LINE_H

#include "lanes.h"
#include "rigpulse/condition/line.h"

RGP_DECLARATIONS_BEGIN

static inline bool rgp_line_lanes_step(const void *config, size_t stride, const float *in, float *out)
{
    const float gain[RGP_LANES] = RGP_LANES_SETTINGS(line, config, stride, gain);
    const float offset[RGP_LANES] = RGP_LANES_SETTINGS(line, config, stride, offset);
    const float low[RGP_LANES] = RGP_LANES_SETTINGS(line, config, stride, low);
    const float high[RGP_LANES] = RGP_LANES_SETTINGS(line, config, stride, high);
    uint32_t others = 0;
    for (size_t k = 0; k < RGP_LANES; k++) {
        const float y = in[k] * gain[k] + offset[k];
        others |= (uint32_t)(low[k] < high[k]) | (uint32_t)!rgp_finite(y);
        out[k] = y;
    }
    return others == 0;
}

RGP_DECLARATIONS_END

#endif
