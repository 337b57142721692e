/* smooth, by four: while the time step and the time constants stay, and nothing is missed. */
#ifndef RIGPULSE_LANES_SMOOTH_H
#define RIGPULSE_LANES_SMOOTH_H

#include "lanes.h"
#include "rigpulse/condition/smooth.h"
#include "rigpulse/inside/fields.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_smooth_lanes {
    uint32_t gap_us[2][RGP_LANES];
    float output[RGP_LANES], lost[RGP_LANES], dt[RGP_LANES], time_constant[RGP_LANES], share[RGP_LANES];
    uint32_t reserved[RGP_LANES];
} rgp_smooth_lanes;

_Static_assert(true rgp_smooth_fields(RGP_LANES_MEET, smooth, ), "smooth by lanes");

/* A gap leaves a time constant of 0 behind. */
static inline bool rgp_smooth_lanes_step(const void *config, size_t stride, rgp_smooth_lanes *s, const float *in,
                                         float *out, float dt)
{
    const float wanted[RGP_LANES] = RGP_LANES_SETTINGS(smooth, config, stride, time_constant);
    uint32_t others = 0;
    for (size_t k = 0; k < RGP_LANES; k++) {
        others |= (uint32_t)(s->dt[k] != dt) | (uint32_t)(s->time_constant[k] != wanted[k]);
    }
    if (others) {
        return false;
    }
    for (size_t k = 0; k < RGP_LANES; k++) {
        rgp__smooth_move(&s->output[k], &s->lost[k], s->share[k], in[k]);
    }
    memcpy(out, s->output, sizeof s->output);
    return true;
}

RGP_DECLARATIONS_END

#endif
