/* The inside of rigpulse/condition/motion.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_MOTION_H
#define RIGPULSE_INSIDE_CONDITION_MOTION_H

#include "rigpulse/condition/motion.h"
#include "rigpulse/numeric.h"

#include <math.h>

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_tilt_step(const rgp_tilt_config *config, rgp_reading x, rgp_reading y, rgp_reading z)
{
    const rgp_quality quality = rgp_worst(x.quality, rgp_worst(y.quality, z.quality));
    if (x.value == 0.0f && y.value == 0.0f && z.value == 0.0f) {
        return rgp_reading_of(0.0f, rgp_worst(quality, RGP_OUT_OF_RANGE));
    }
    const float angle = config->which == RGP_TILT_ROLL
                            ? rgp_atan2_degrees(y.value, z.value)
                            : rgp_atan2_degrees(-x.value, sqrtf(y.value * y.value + z.value * z.value));
    return rgp_number(angle, quality);
}

static inline rgp_reading rgp_fuse_step(const rgp_fuse_config *config, rgp_fuse_state *state, rgp_reading rate,
                                        rgp_reading tilt, float dt)
{
    const rgp_quality quality = rgp_worst(rate.quality, tilt.quality);
    if (!rgp_usable(quality) || !(dt > 0.0f)) {
        state->gap_us += rgp_microseconds(dt);
        return rgp_reading_of(state->angle, quality);
    }
    if (state->gap_us > 0) {
        dt += rgp_seconds(state->gap_us);
        state->gap_us = 0;
    }
    if (!state->known) {
        state->known = 1;
        state->angle = tilt.value;
    } else {
        if (dt != state->dt || config->time_constant != state->time_constant) {
            state->dt = dt;
            state->time_constant = config->time_constant;
            state->share = rgp_decay(dt / config->time_constant);
        }
        rgp_add(&state->angle, &state->lost, rate.value * config->gain * dt);
        rgp_add(&state->angle, &state->lost, state->share * ((tilt.value - state->angle) - state->lost));
    }
    if (!rgp_finite(state->angle) || !rgp_finite(state->lost)) {
        state->angle = state->lost = 0.0f;
        return rgp_reading_of(0.0f, RGP_OUT_OF_RANGE);
    }
    return rgp_reading_of(state->angle, quality);
}

RGP_DECLARATIONS_END

#endif
