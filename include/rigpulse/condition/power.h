/* power (power law): out = at_one * (in / one)^exponent, the law of many light-dependent resistors and of some pressure
 * and flow sensors. An input that is not positive is out of range. */
#ifndef RIGPULSE_CONDITION_POWER_H
#define RIGPULSE_CONDITION_POWER_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_power_config {
    float at_one;   /* output unit: what comes out for an input of `one` */
    float one;      /* input unit; above 0 */
    float exponent; /* not 0, -20 to 20 */
} rgp_power_config;

/* RGP_E_CONFIG when a number is not finite or outside what is said above. Else RGP_OK. Only the settings are looked at.
 */
rgp_status rgp_power_check(const rgp_power_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_power_fault(const rgp_power_config *config);

/* The result, and how far it can be trusted: no further than what goes in.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_power_step(const rgp_power_config *config, rgp_reading in);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/power.h"

#endif
