/* The inside of rigpulse/regulate/nudge.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_REGULATE_NUDGE_H
#define RIGPULSE_INSIDE_REGULATE_NUDGE_H

#include "rigpulse/regulate/nudge.h"
#include "rigpulse/numeric.h"
#include "rigpulse/drive/limit.h"

#include <string.h>

RGP_DECLARATIONS_BEGIN

static inline void rgp_nudge_reset(rgp_nudge_state *state)
{
    memset(state, 0, sizeof *state);
}

static inline void rgp_nudge_follow(const rgp_nudge_config *config, rgp_nudge_state *state, float driven)
{
    state->output = rgp_limit(driven, config->low, config->high);
    state->primed = 1;
}

static inline rgp_reading rgp_nudge_step(const rgp_nudge_config *config, rgp_nudge_state *state, rgp_reading setpoint,
                                         rgp_reading measured, float driven, float dt)
{
    const rgp_quality quality = rgp_worst(setpoint.quality, measured.quality);
    if (!state->primed) {
        rgp_nudge_follow(config, state, driven);
    }
    if (dt > 0.0f) {
        state->waited_us += rgp_microseconds(dt);
    }
    if (rgp_usable(quality) && dt > 0.0f) {
        state->error = setpoint.value - measured.value;
        const float wants = config->reverse ? -state->error : state->error;
        const uint64_t pace = rgp_microseconds(config->pace);
        if (state->waited_us >= pace) {
            state->waited_us = state->waited_us < 2 * pace ? state->waited_us - pace : 0;
            const float step = wants > config->within ? config->step : wants < -config->within ? -config->step : 0.0f;
            state->output = rgp_limit(state->output + step, config->low, config->high);
        }
    }
    return rgp_reading_of(state->output, quality);
}

RGP_DECLARATIONS_END

#endif
