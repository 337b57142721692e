/* The inside of rigpulse/condition/smooth.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_SMOOTH_H
#define RIGPULSE_INSIDE_CONDITION_SMOOTH_H

#include "rigpulse/condition/smooth.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

/* The part of rgp_smooth_step() before it steps by a new dt, with a new time constant, at the first reading and around
 * gaps. */
void rgp_smooth_adapt(const rgp_smooth_config *config, rgp_smooth_state *state, float value, float dt);

/* One step towards the input, by the share of the way that its time takes. */
static inline void rgp__smooth_move(float *output, float *lost, float share, float in)
{
    rgp_add(output, lost, share * ((in - *output) - *lost));
}

static inline rgp_reading rgp_smooth_step(const rgp_smooth_config *config, rgp_smooth_state *state, rgp_reading in,
                                          float dt)
{
    if (!rgp_usable(in.quality) || !(dt > 0.0f)) {
        state->gap_us += rgp_microseconds(dt);
        state->time_constant = dt > 0.0f ? 0.0f : state->time_constant;
        return rgp_reading_of(state->dt > 0.0f ? state->output : in.value, in.quality);
    }
    if (dt != state->dt || config->time_constant != state->time_constant) {
        rgp_smooth_adapt(config, state, in.value, dt);
    }
    rgp__smooth_move(&state->output, &state->lost, state->share, in.value);
    return rgp_reading_of(state->output, in.quality);
}

RGP_DECLARATIONS_END

#endif
