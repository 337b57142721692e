/* Temperature in degrees Celsius from the resistance of a thermistor.
 *
 * beta:      1/T = 1/T0 + ln(R / R0) / B                    (the two-parameter form of the same law)
 * steinhart: 1/T = a + b ln R + c (ln R)^3, R in ohms       (Steinhart and Hart, 1968)
 *
 * T in kelvin. A resistance that is not positive is out of range. */
#ifndef RIGPULSE_CONDITION_THERMISTOR_H
#define RIGPULSE_CONDITION_THERMISTOR_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_beta_config {
    float beta;    /* kelvin; 100 to 20000 */
    float at;      /* R0, in the input unit; above 0 */
    float celsius; /* T0 */
} rgp_beta_config;

typedef struct rgp_steinhart_config {
    float a, b, c;
    float ohms; /* per input unit; above 0 */
} rgp_steinhart_config;

/* RGP_E_CONFIG when a number is not finite or outside what is said above, or T0 is below -273 degrees. */
rgp_status rgp_beta_check(const rgp_beta_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_beta_fault(const rgp_beta_config *config);

/* RGP_E_CONFIG when a number is not finite, b is 0, or ohms is not above 0. */
rgp_status rgp_steinhart_check(const rgp_steinhart_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_steinhart_fault(const rgp_steinhart_config *config);

static inline rgp_reading rgp_thermistor_celsius(float inverse, rgp_quality quality)
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
    return rgp_thermistor_celsius(1.0f / (config->celsius + 273.15f) + rgp_log(in.value / config->at) / config->beta,
                                  in.quality);
}

static inline rgp_reading rgp_steinhart_step(const rgp_steinhart_config *config, rgp_reading in)
{
    if (!(in.value > 0.0f)) {
        return rgp_reading_of(0.0f, rgp_worst(in.quality, RGP_OUT_OF_RANGE));
    }
    const float l = rgp_log(in.value * config->ohms);
    return rgp_thermistor_celsius(config->a + l * (config->b + config->c * l * l), in.quality);
}

RGP_DECLARATIONS_END

#endif
