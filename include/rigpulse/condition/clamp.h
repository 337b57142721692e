/* clamp: keeps a quantity within two limits (the stage `limit`). */
#ifndef RIGPULSE_CONDITION_CLAMP_H
#define RIGPULSE_CONDITION_CLAMP_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_clamp_config {
    float low, high; /* input unit; low below high */
} rp_clamp_config;

/* RP_E_CONFIG when a number is not finite or low is not below high. */
rp_status rp_clamp_check(const rp_clamp_config *config);

static inline rp_reading rp_clamp_step(const rp_clamp_config *config, rp_reading in)
{
    const float most = in.value > config->high ? config->high : in.value;
    return (rp_reading){most < config->low ? config->low : most, in.quality};
}

#endif
