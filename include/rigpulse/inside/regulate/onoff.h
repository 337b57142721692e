/* The inside of rigpulse/regulate/onoff.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_REGULATE_ONOFF_H
#define RIGPULSE_INSIDE_REGULATE_ONOFF_H

#include "rigpulse/regulate/onoff.h"
#include "rigpulse/numeric.h"

#include <string.h>

RGP_DECLARATIONS_BEGIN

static inline void rgp_onoff_reset(rgp_onoff_state *state)
{
    memset(state, 0, sizeof *state);
}

static inline rgp_reading rgp_onoff_step(const rgp_onoff_config *config, rgp_onoff_state *state, rgp_reading setpoint,
                                         rgp_reading measured, float dt)
{
    const rgp_quality quality = rgp_worst(setpoint.quality, measured.quality);
    if (dt > 0.0f) {
        state->since_us += rgp_microseconds(dt);
    }
    if (rgp_usable(quality) && dt > 0.0f) {
        const float error = setpoint.value - measured.value;
        const float wants = config->reverse ? -error : error;
        const uint8_t on = state->is ? wants > -config->margin : wants > 0.0f;
        const float least = state->is ? config->least_on : config->least_off;
        state->error = error;
        if (!state->primed || (on != state->is && state->since_us >= rgp_microseconds(least))) {
            state->since_us = on != state->is || !state->primed ? 0 : state->since_us;
            state->is = on;
            state->primed = 1;
        }
    }
    state->output = state->is ? config->high : config->low;
    return rgp_reading_of(state->output, quality);
}

RGP_DECLARATIONS_END

#endif
