/* The inside of rigpulse/condition/slope.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_SLOPE_H
#define RIGPULSE_INSIDE_CONDITION_SLOPE_H

#include "rigpulse/condition/slope.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_slope_step(const rgp_slope_config *config, rgp_slope_state *state, rgp_reading in,
                                         float dt)
{
    if (!rgp_usable(in.quality) || !(dt > 0.0f)) {
        state->gap_us += rgp_microseconds(dt);
        return rgp_reading_of(state->slope, in.quality);
    }
    if (state->gap_us > 0) {
        dt += rgp_seconds(state->gap_us);
        state->gap_us = 0;
    }
    if (state->known) {
        const float now = (in.value - state->before) / dt, way = (now - state->slope) - state->lost;
        rgp_add(&state->slope, &state->lost, rgp_decay(dt / config->time_constant) * way);
    }
    state->known = 1;
    state->before = in.value;
    if (!rgp_finite(state->slope) || !rgp_finite(state->lost)) {
        state->gap_us = 0;
        state->slope = state->lost = 0.0f;
        return rgp_reading_of(0.0f, RGP_OUT_OF_RANGE);
    }
    return rgp_reading_of(state->slope, in.quality);
}

RGP_DECLARATIONS_END

#endif
