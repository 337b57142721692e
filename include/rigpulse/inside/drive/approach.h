/* The inside of rigpulse/drive/approach.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DRIVE_APPROACH_H
#define RIGPULSE_INSIDE_DRIVE_APPROACH_H

#include "rigpulse/drive/approach.h"
#include "rigpulse/numeric.h"
#include "rigpulse/condition/wrap.h"
#include "rigpulse/inside/settings.h"

RGP_DECLARATIONS_BEGIN

static inline const char *rgp_approach_fault(const rgp_approach_config *c)
{
    const char *fault = RGP_FAULT_OF(approach);
    return fault ? fault : c->within <= c->slowing ? NULL : RGP_WORDS("within: 0 to slowing");
}

static inline rgp_status rgp_approach_check(const rgp_approach_config *config)
{
    return rgp_approach_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

static inline void rgp_approach_reset(rgp_approach_state *state)
{
    state->there = 0;
}

/* The nearest of all the ways round: from -turn/2 to turn/2. */
static inline rgp_reading rgp__approach_way(rgp_reading way, float turn)
{
    const rgp_wrap_config half = {turn, -0.5f * turn};
    return turn > 0.0f ? rgp_wrap_step(&half, way) : way;
}

static inline rgp_reading rgp_approach_step(const rgp_approach_config *config, rgp_approach_state *state,
                                            rgp_reading place, rgp_reading target, float dt)
{
    const rgp_reading round = rgp__approach_way(
        rgp_number(target.value - place.value, rgp_worst(place.quality, target.quality)), config->turn);
    const rgp_quality quality = round.quality;
    const float way = round.value;
    const float far = way < 0.0f ? -way : way;
    if (rgp_usable(quality) && dt > 0.0f) {
        state->there = far <= config->within * (state->there ? 2.0f : 1.0f);
    }
    const float power = far >= config->slowing ? (way < 0.0f ? -100.0f : 100.0f) : 100.0f * way / config->slowing;
    return rgp_number(state->there ? 0.0f : power, quality);
}

RGP_DECLARATIONS_END

#endif
