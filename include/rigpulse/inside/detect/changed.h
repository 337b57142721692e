/* The inside of rigpulse/detect/changed.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DETECT_CHANGED_H
#define RIGPULSE_INSIDE_DETECT_CHANGED_H

#include "rigpulse/detect/changed.h"
#include "rigpulse/inside/settings.h"

RGP_DECLARATIONS_BEGIN

static inline const char *rgp_changed_fault(const rgp_changed_config *c)
{
    return RGP_FAULT_OF(changed);
}

static inline rgp_status rgp_changed_check(const rgp_changed_config *config)
{
    return rgp_changed_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

static inline void rgp_changed_reset(rgp_changed_state *state)
{
    state->last = 0.0f;
    state->known = 0;
}

static inline rgp_reading rgp_changed_step(const rgp_changed_config *config, rgp_changed_state *state, rgp_reading in,
                                           float dt)
{
    (void)config;
    if (!rgp_usable(in.quality) || dt <= 0.0f) {
        return rgp_reading_of(0.0f, in.quality);
    }
    const bool changed = state->known && in.value != state->last;
    state->last = in.value;
    state->known = 1;
    return rgp_reading_of(changed ? 1.0f : 0.0f, in.quality);
}

RGP_DECLARATIONS_END

#endif
