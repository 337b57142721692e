/* The inside of rigpulse/condition/power.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_POWER_H
#define RIGPULSE_INSIDE_CONDITION_POWER_H

#include "rigpulse/condition/power.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_power_step(const rgp_power_config *config, rgp_reading in)
{
    const float ratio = in.value / config->one;
    if (!(ratio > 0.0f)) {
        return rgp_reading_of(0.0f, rgp_worst(in.quality, RGP_OUT_OF_RANGE));
    }
    return rgp_number(config->at_one * rgp_exp(config->exponent * rgp_log(ratio)), in.quality);
}

RGP_DECLARATIONS_END

#endif
