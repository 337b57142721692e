/* line, by four: known everywhere, and no result that a float cannot hold. */
#ifndef RIGPULSE_LANES_LINE_H
#define RIGPULSE_LANES_LINE_H

#include "lanes.h"
#include "rigpulse/condition/line.h"
#include "rigpulse/inside/settings.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_line_lanes_set {
    float gain[RGP_LANES], offset[RGP_LANES], low[RGP_LANES], high[RGP_LANES];
} rgp_line_lanes_set;

_Static_assert(true rgp_line_settings(RGP_LANES_SET, line, ), "settings of line by lanes");

static inline bool rgp_line_lanes_step(const rgp_line_lanes_set *set, const float *in, float *out)
{
    uint32_t other[RGP_LANES];
    for (size_t k = 0; k < RGP_LANES; k++) {
        const float y = in[k] * set->gain[k] + set->offset[k];
        other[k] = (uint32_t)(set->low[k] < set->high[k]) | (uint32_t)!rgp_finite(y);
        out[k] = y;
    }
    return !rgp_lanes_any(other);
}

RGP_DECLARATIONS_END

#endif
