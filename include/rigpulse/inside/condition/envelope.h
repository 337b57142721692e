/* The inside of rigpulse/condition/envelope.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_ENVELOPE_H
#define RIGPULSE_INSIDE_CONDITION_ENVELOPE_H

#include "rigpulse/condition/envelope.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_envelope_step(const rgp_envelope_config *config, rgp_envelope_state *state,
                                            rgp_reading in, float dt)
{
    const float size = in.value < 0.0f ? -in.value : in.value;
    if (!rgp_usable(in.quality) || !(dt > 0.0f)) {
        state->gap_us += rgp_microseconds(dt);
        return rgp_reading_of(state->known ? state->output : size, in.quality);
    }
    if (state->gap_us > 0) {
        dt += rgp_seconds(state->gap_us);
        state->gap_us = 0;
    }
    const float time = size > state->output ? config->rise : config->fall;
    if (!state->known || !(time > 0.0f)) {
        state->known = 1;
        state->output = size;
        state->lost = 0.0f;
    } else {
        rgp_add(&state->output, &state->lost, rgp_decay(dt / time) * ((size - state->output) - state->lost));
    }
    return rgp_reading_of(state->output, in.quality);
}

RGP_DECLARATIONS_END

#endif
