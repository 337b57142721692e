/* The inside of rigpulse/condition/hold.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_HOLD_H
#define RIGPULSE_INSIDE_CONDITION_HOLD_H

#include "rigpulse/condition/hold.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

/* The part of a step for a bad reading. */
rgp_reading rgp_hold_bridge(const rgp_hold_config *config, rgp_hold_state *state, rgp_reading in, float dt);

static inline rgp_reading rgp_hold_step(const rgp_hold_config *config, rgp_hold_state *state, rgp_reading in, float dt)
{
    if (!rgp_usable(in.quality)) {
        return rgp_hold_bridge(config, state, in, dt);
    }
    if (dt > 0.0f) {
        state->value = in.value;
        state->away_us = 0;
        state->known = 1;
    }
    return in;
}

RGP_DECLARATIONS_END

#endif
