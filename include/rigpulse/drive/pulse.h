/* pulse (monostable with hold-off): an action that is fired is acting for a stated time and then refuses for a
 * holdoff, so that its effect can settle before it may act again. Times are port times in microseconds;
 * an action ends at the first tick that is not before its end, so times are rounded up to ticks. */
#ifndef RIGPULSE_DRIVE_PULSE_H
#define RIGPULSE_DRIVE_PULSE_H

#include "rigpulse/linkage.h"

#include <stdint.h>

RGP_DECLARATIONS_BEGIN

typedef enum rgp_pulse_phase { RGP_PULSE_READY, RGP_PULSE_ACTING, RGP_PULSE_HOLDOFF } rgp_pulse_phase;

typedef struct rgp_pulse_state {
    uint64_t acts_until;
    uint64_t ready_at;
} rgp_pulse_state;

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

/* Starts an action of `width` microseconds, followed by `holdoff` microseconds of refusing. Either may be
 * 0; the caller has asked rgp_pulse_at() first. A sum past the end of time is cut to the end of time. */
static inline void rgp_pulse_fire(rgp_pulse_state *state, uint64_t now, uint64_t width, uint64_t holdoff)
{
    state->acts_until = width > UINT64_MAX - now ? UINT64_MAX : now + width;
    state->ready_at = holdoff > UINT64_MAX - state->acts_until ? UINT64_MAX : state->acts_until + holdoff;
}

RGP_DECLARATIONS_END

#endif
