/* smooth, by four: while the time step and the time constants stay, and nothing is missed. */
#ifndef RIGPULSE_LANES_SMOOTH_H
#define RIGPULSE_LANES_SMOOTH_H

#include "lanes.h"
#include "rigpulse/condition/smooth.h"
#include "rigpulse/inside/fields.h"
#include "rigpulse/inside/settings.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_smooth_lanes {
    uint32_t gap_us[2][RGP_LANES];
    float output[RGP_LANES], lost[RGP_LANES], dt[RGP_LANES], time_constant[RGP_LANES], share[RGP_LANES];
    uint32_t reserved[RGP_LANES];
} rgp_smooth_lanes;

_Static_assert(true rgp_smooth_fields(RGP_LANES_MEET, smooth, ), "smooth by lanes");

typedef struct rgp_smooth_lanes_set {
    float time_constant[RGP_LANES];
} rgp_smooth_lanes_set;

_Static_assert(true rgp_smooth_settings(RGP_LANES_SET, smooth, ), "settings of smooth by lanes");

/* A gap leaves a time constant of 0 behind. */
static inline bool rgp_smooth_lanes_step(const rgp_smooth_lanes_set *set, rgp_smooth_lanes *s, const float *in,
                                         float *out, float dt)
{
    uint32_t other[RGP_LANES];
    for (size_t k = 0; k < RGP_LANES; k++) {
        other[k] = (uint32_t)(s->dt[k] != dt) | (uint32_t)(s->time_constant[k] != set->time_constant[k]);
    }
    if (rgp_lanes_any(other)) {
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
