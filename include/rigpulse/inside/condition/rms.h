/* The inside of rigpulse/condition/rms.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_RMS_H
#define RIGPULSE_INSIDE_CONDITION_RMS_H

#include "rigpulse/condition/rms.h"
#include "rigpulse/numeric.h"

#include <math.h>

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_rms_step(const rgp_rms_config *config, rgp_rms_state *state, rgp_reading in, float dt)
{
    if (!rgp_usable(in.quality) || !(dt > 0.0f)) {
        state->gap_us += rgp_microseconds(dt);
        const float size = in.value < 0.0f ? -in.value : in.value;
        return rgp_reading_of(state->known ? sqrtf(state->square) : size, in.quality);
    }
    if (state->gap_us > 0) {
        dt += rgp_seconds(state->gap_us);
        state->gap_us = 0;
    }
    const float square = in.value * in.value;
    if (!rgp_finite(square)) {
        rgp_rms_reset(state);
        return rgp_reading_of(0.0f, RGP_OUT_OF_RANGE);
    }
    if (!state->known) {
        state->known = 1;
        state->square = square;
    } else {
        rgp_add(&state->square, &state->lost,
                rgp_decay(dt / config->time_constant) * ((square - state->square) - state->lost));
        state->square = state->square > 0.0f ? state->square : 0.0f;
    }
    return rgp_reading_of(sqrtf(state->square), in.quality);
}

RGP_DECLARATIONS_END

#endif
