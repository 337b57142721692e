/* Temperature in degrees Celsius from the resistance of a thermistor.
 *
 * beta:      1/T = 1/T0 + ln(R / R0) / B                    (the two-parameter form of the same law)
 * steinhart: 1/T = a + b ln R + c (ln R)^3, R in ohms       (Steinhart and Hart, 1968)
 *
 * T in kelvin. A resistance that is not positive is out of range. */
#ifndef RIGPULSE_CONDITION_THERMISTOR_H
#define RIGPULSE_CONDITION_THERMISTOR_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_beta_config {
    float beta;    /* kelvin; 100 to 20000 */
    float at;      /* R0, in the input unit; above 0 */
    float celsius; /* T0 */
} rp_beta_config;

typedef struct rp_steinhart_config {
    float a, b, c;
    float ohms; /* per input unit; above 0 */
} rp_steinhart_config;

/* RP_E_CONFIG when a number is not finite or outside what is said above, or T0 is below -273 degrees. */
rp_status rp_beta_check(const rp_beta_config *config);

/* RP_E_CONFIG when a number is not finite, b is 0, or ohms is not above 0. */
rp_status rp_steinhart_check(const rp_steinhart_config *config);

static inline rp_reading rp_thermistor_celsius(float inverse, rp_quality quality)
{
    if (!(inverse > 1e-4f)) {
        return (rp_reading){0.0f, rp_worst(quality, RP_OUT_OF_RANGE)};
    }
    return rp_number(1.0f / inverse - 273.15f, quality);
}

static inline rp_reading rp_beta_step(const rp_beta_config *config, rp_reading in)
{
    if (!(in.value > 0.0f)) {
        return (rp_reading){0.0f, rp_worst(in.quality, RP_OUT_OF_RANGE)};
    }
    return rp_thermistor_celsius(1.0f / (config->celsius + 273.15f) + rp_log(in.value / config->at) / config->beta,
                                 in.quality);
}

static inline rp_reading rp_steinhart_step(const rp_steinhart_config *config, rp_reading in)
{
    if (!(in.value > 0.0f)) {
        return (rp_reading){0.0f, rp_worst(in.quality, RP_OUT_OF_RANGE)};
    }
    const float l = rp_log(in.value * config->ohms);
    return rp_thermistor_celsius(config->a + l * (config->b + config->c * l * l), in.quality);
}

#endif
