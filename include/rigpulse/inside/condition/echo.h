/* The inside of rigpulse/condition/echo.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_ECHO_H
#define RIGPULSE_INSIDE_CONDITION_ECHO_H

#include "rigpulse/condition/echo.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_echo_step(const rgp_echo_config *config, rgp_reading in)
{
    const float distance = 0.5f * in.value * config->seconds * rgp_speed_of_sound(config->celsius) * config->metre;
    if (!(in.value > 0.0f && distance >= config->near && distance <= config->far)) {
        return rgp_reading_of(0.0f, rgp_worst(in.quality, RGP_MISSING));
    }
    return rgp_reading_of(distance, in.quality);
}

RGP_DECLARATIONS_END

#endif
