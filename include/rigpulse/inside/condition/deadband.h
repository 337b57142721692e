/* The inside of rigpulse/condition/deadband.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_DEADBAND_H
#define RIGPULSE_INSIDE_CONDITION_DEADBAND_H

#include "rigpulse/condition/deadband.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_deadband_step(const rgp_deadband_config *config, rgp_reading in)
{
    const float over = in.value > config->width    ? in.value - config->width
                       : in.value < -config->width ? in.value + config->width
                                                   : 0.0f;
    return rgp_reading_of(over, in.quality);
}

RGP_DECLARATIONS_END

#endif
