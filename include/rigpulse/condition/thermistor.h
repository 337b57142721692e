/* Temperature in degrees Celsius from the resistance of a thermistor.
 *
 * beta:      1/T = 1/T0 + ln(R / R0) / B                    (the two-parameter form of the same law)
 * steinhart: 1/T = a + b ln R + c (ln R)^3, R in ohms       (Steinhart and Hart, 1968)
 *
 * T in kelvin. A resistance that is not positive is out of range. */
#ifndef RIGPULSE_CONDITION_THERMISTOR_H
#define RIGPULSE_CONDITION_THERMISTOR_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_beta_config {
    float beta;    /* kelvin; 100 to 20000 */
    float at;      /* R0, in the input unit; above 0 */
    float celsius; /* T0 */
} rgp_beta_config;

/* The settings: the caller's, and only read. */
typedef struct rgp_steinhart_config {
    float a, b, c; /* of the equation, for ohms and kelvin; -1 to 1, b not 0 */
    float ohms;    /* per input unit; above 0 */
} rgp_steinhart_config;

/* RGP_E_CONFIG when a number is not finite or outside what is said above, or T0 is below -273 degrees. RGP_OK when they
 * are sound. Only the settings are looked at. */
rgp_status rgp_beta_check(const rgp_beta_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_beta_fault(const rgp_beta_config *config);

/* RGP_E_CONFIG when a number is outside what is said above. Else RGP_OK. Only the settings are looked
 * at. */
rgp_status rgp_steinhart_check(const rgp_steinhart_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_steinhart_fault(const rgp_steinhart_config *config);

/* The result, and how far it can be trusted: no further than what goes in.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_beta_step(const rgp_beta_config *config, rgp_reading in);

/* The result, and how far it can be trusted: no further than what goes in.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_steinhart_step(const rgp_steinhart_config *config, rgp_reading in);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/thermistor.h"

#endif
