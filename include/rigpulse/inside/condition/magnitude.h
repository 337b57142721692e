/* The inside of rigpulse/condition/magnitude.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_MAGNITUDE_H
#define RIGPULSE_INSIDE_CONDITION_MAGNITUDE_H

#include "rigpulse/condition/magnitude.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_magnitude_step(const rgp_magnitude_config *config, rgp_reading in)
{
    (void)config;
    return rgp_reading_of(in.value <= 0.0f ? 0.0f - in.value : in.value, in.quality);
}

RGP_DECLARATIONS_END

#endif
