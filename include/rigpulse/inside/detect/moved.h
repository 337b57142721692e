/* The inside of rigpulse/detect/moved.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DETECT_MOVED_H
#define RIGPULSE_INSIDE_DETECT_MOVED_H

#include "rigpulse/detect/moved.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_moved_step(const rgp_moved_config *config, rgp_moved_state *state, rgp_reading in,
                                         float dt)
{
    if (!rgp_usable(in.quality) || !(dt > 0.0f)) {
        state->gap_us += rgp_microseconds(dt);
        return rgp_reading_of(state->is ? 1.0f : 0.0f, in.quality);
    }
    if (!state->known) {
        state->known = 1;
        state->baseline = in.value;
    }
    const float away = (in.value - state->baseline) - state->lost, size = away < 0.0f ? -away : away;
    state->is = size > config->amount - (state->is ? config->margin : 0.0f);
    const float passed = state->gap_us > 0 ? dt + rgp_seconds(state->gap_us) : dt;
    rgp_add(&state->baseline, &state->lost, rgp_decay(passed / config->time_constant) * away);
    state->gap_us = 0;
    return rgp_reading_of(state->is ? 1.0f : 0.0f, in.quality);
}

RGP_DECLARATIONS_END

#endif
