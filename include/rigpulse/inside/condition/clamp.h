/* The inside of rigpulse/condition/clamp.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_CLAMP_H
#define RIGPULSE_INSIDE_CONDITION_CLAMP_H

#include "rigpulse/condition/clamp.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_clamp_step(const rgp_clamp_config *config, rgp_reading in)
{
    const float most = in.value > config->high ? config->high : in.value;
    return rgp_reading_of(most < config->low ? config->low : most, in.quality);
}

RGP_DECLARATIONS_END

#endif
