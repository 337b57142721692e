/* power (power law): out = at_one * (in / one)^exponent, the law of many light-dependent resistors and of some pressure
 * and flow sensors. An input that is not positive is out of range. */
#ifndef RIGPULSE_CONDITION_POWER_H
#define RIGPULSE_CONDITION_POWER_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_power_config {
    float at_one;   /* output unit: what comes out for an input of `one` */
    float one;      /* input unit; above 0 */
    float exponent; /* not 0, -20 to 20 */
} rgp_power_config;

/* RGP_E_CONFIG when a number is not finite or outside what is said above. */
rgp_status rgp_power_check(const rgp_power_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_power_fault(const rgp_power_config *config);

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
