/* The inside of rigpulse/condition/wrap.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_WRAP_H
#define RIGPULSE_INSIDE_CONDITION_WRAP_H

#include "rigpulse/condition/wrap.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_wrap_step(const rgp_wrap_config *config, rgp_reading in)
{
    const float turns = (in.value - config->low) / config->turn;
    if (!(turns > -8e6f && turns < 8e6f)) { /* a float holds no part of a turn any more */
        return rgp_reading_of(config->low, rgp_worst(in.quality, RGP_OUT_OF_RANGE));
    }
    float whole = (float)(int32_t)turns;
    whole -= whole > turns ? 1.0f : 0.0f;
    const float folded = in.value - whole * config->turn;
    return rgp_reading_of(folded < config->low + config->turn ? folded : config->low, in.quality);
}

RGP_DECLARATIONS_END

#endif
