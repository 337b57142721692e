/* The inside of rigpulse/condition/take.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_TAKE_H
#define RIGPULSE_INSIDE_CONDITION_TAKE_H

#include "rigpulse/condition/take.h"
#include "rigpulse/inside/settings.h"

RGP_DECLARATIONS_BEGIN

static inline const char *rgp_take_fault(const rgp_take_config *c)
{
    return RGP_FAULT_OF(take);
}

static inline rgp_status rgp_take_check(const rgp_take_config *config)
{
    return rgp_take_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

static inline void rgp_take_reset(rgp_take_state *state)
{
    state->value = 0.0f;
    state->known = 0;
}

static inline rgp_reading rgp_take_step(const rgp_take_config *config, rgp_take_state *state, rgp_reading in,
                                        rgp_reading condition, float dt)
{
    (void)config;
    if (rgp_usable(condition.quality) && condition.value != 0.0f) {
        if (rgp_usable(in.quality) && dt > 0.0f) {
            state->value = in.value;
            state->known = 1;
        }
        return in;
    }
    return rgp_reading_of(state->value, state->known ? RGP_HELD : RGP_MISSING);
}

RGP_DECLARATIONS_END

#endif
