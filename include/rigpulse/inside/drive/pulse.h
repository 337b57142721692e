/* The inside of rigpulse/drive/pulse.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DRIVE_PULSE_H
#define RIGPULSE_INSIDE_DRIVE_PULSE_H

#include "rigpulse/drive/pulse.h"

RGP_DECLARATIONS_BEGIN

static inline void rgp_pulse_reset(rgp_pulse_state *state)
{
    state->acts_until = 0;
    state->ready_at = 0;
}

static inline rgp_pulse_phase rgp_pulse_at(const rgp_pulse_state *state, uint64_t now)
{
    if (now >= state->ready_at) {
        return RGP_PULSE_READY;
    }
    return now < state->acts_until ? RGP_PULSE_ACTING : RGP_PULSE_HOLDOFF;
}

static inline void rgp_pulse_fire(rgp_pulse_state *state, uint64_t now, uint64_t width, uint64_t holdoff)
{
    state->acts_until = width > UINT64_MAX - now ? UINT64_MAX : now + width;
    state->ready_at = holdoff > UINT64_MAX - state->acts_until ? UINT64_MAX : state->acts_until + holdoff;
}

RGP_DECLARATIONS_END

#endif
