/* clamp (saturation): keeps a quantity within two limits (the stage `limit`). */
#ifndef RIGPULSE_CONDITION_CLAMP_H
#define RIGPULSE_CONDITION_CLAMP_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_clamp_config {
    float low, high; /* input unit; low below high */
} rgp_clamp_config;

/* RGP_E_CONFIG when a number is not finite or low is not below high. */
rgp_status rgp_clamp_check(const rgp_clamp_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_clamp_fault(const rgp_clamp_config *config);

static inline rgp_reading rgp_clamp_step(const rgp_clamp_config *config, rgp_reading in)
{
    const float most = in.value > config->high ? config->high : in.value;
    return rgp_reading_of(most < config->low ? config->low : most, in.quality);
}

RGP_DECLARATIONS_END

#endif
