/* power: out = at_one * (in / one)^exponent, the law of many light-dependent resistors and of some pressure and flow
 * sensors. An input that is not positive is out of range. */
#ifndef RIGPULSE_CONDITION_POWER_H
#define RIGPULSE_CONDITION_POWER_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_power_config {
    float at_one;   /* output unit: what comes out for an input of `one` */
    float one;      /* input unit; above 0 */
    float exponent; /* not 0, -20 to 20 */
} rp_power_config;

/* RP_E_CONFIG when a number is not finite or outside what is said above. */
rp_status rp_power_check(const rp_power_config *config);

static inline rp_reading rp_power_step(const rp_power_config *config, rp_reading in)
{
    const float ratio = in.value / config->one;
    if (!(ratio > 0.0f)) {
        return (rp_reading){0.0f, rp_worst(in.quality, RP_OUT_OF_RANGE)};
    }
    return rp_number(config->at_one * rp_exp(config->exponent * rp_log(ratio)), in.quality);
}

#endif
