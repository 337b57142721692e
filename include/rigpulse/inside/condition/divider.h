/* The inside of rigpulse/condition/divider.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_DIVIDER_H
#define RIGPULSE_INSIDE_CONDITION_DIVIDER_H

#include "rigpulse/condition/divider.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_divider_step(const rgp_divider_config *config, rgp_reading in)
{
    const float lower = in.value / config->full * config->reference; /* volts across the lower resistor */
    const float upper = config->supply - lower;
    if (!(lower > 0.0f && upper > 0.0f)) {
        return rgp_reading_of(0.0f, rgp_worst(in.quality, RGP_OUT_OF_RANGE));
    }
    const float ratio = config->side == RGP_DIVIDER_FIXED_ABOVE ? lower / upper : upper / lower;
    return rgp_number(config->fixed * ratio, in.quality);
}

RGP_DECLARATIONS_END

#endif
