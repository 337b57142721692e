/* The inside of rigpulse/condition/thermistor.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_THERMISTOR_H
#define RIGPULSE_INSIDE_CONDITION_THERMISTOR_H

#include "rigpulse/condition/thermistor.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp__thermistor_celsius(float inverse, rgp_quality quality)
{
    if (!(inverse > 1e-4f)) {
        return rgp_reading_of(0.0f, rgp_worst(quality, RGP_OUT_OF_RANGE));
    }
    return rgp_number(1.0f / inverse - 273.15f, quality);
}

static inline rgp_reading rgp_beta_step(const rgp_beta_config *config, rgp_reading in)
{
    if (!(in.value > 0.0f)) {
        return rgp_reading_of(0.0f, rgp_worst(in.quality, RGP_OUT_OF_RANGE));
    }
    return rgp__thermistor_celsius(1.0f / (config->celsius + 273.15f) + rgp_log(in.value / config->at) / config->beta,
                                   in.quality);
}

static inline rgp_reading rgp_steinhart_step(const rgp_steinhart_config *config, rgp_reading in)
{
    if (!(in.value > 0.0f)) {
        return rgp_reading_of(0.0f, rgp_worst(in.quality, RGP_OUT_OF_RANGE));
    }
    const float l = rgp_log(in.value * config->ohms);
    return rgp__thermistor_celsius(config->a + l * (config->b + config->c * l * l), in.quality);
}

RGP_DECLARATIONS_END

#endif
