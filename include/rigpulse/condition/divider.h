/* divider (voltage divider): a resistance from the counts of a converter that reads the middle of a voltage divider.
 *
 *   supply --[ upper ]--+--[ lower ]-- ground         volts = counts / full * reference
 *                       |
 *                   converter
 *
 * A reading at a rail, from which no resistance can be told, is out of range. */
#ifndef RIGPULSE_CONDITION_DIVIDER_H
#define RIGPULSE_CONDITION_DIVIDER_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

enum { RGP_DIVIDER_FIXED_ABOVE = 0, RGP_DIVIDER_FIXED_BELOW = 1 }; /* towards the supply; towards ground */

/* The settings: the caller's, and only read. */
typedef struct rgp_divider_config {
    float fixed;     /* the known resistor, in the output unit; above 0 */
    float full;      /* counts at the reference voltage; above 0 */
    float reference; /* of the converter, volts; above 0 */
    float supply;    /* of the divider, volts; above 0 */
    uint32_t side;   /* where the fixed resistor sits: RGP_DIVIDER_FIXED_ABOVE or _BELOW */
} rgp_divider_config;

/* RGP_E_CONFIG when a number is not finite or not above 0, or the side is neither. Else RGP_OK. Only the settings are
 * looked at. */
rgp_status rgp_divider_check(const rgp_divider_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_divider_fault(const rgp_divider_config *config);

/* The result, and how far it can be trusted: no further than what goes in.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_divider_step(const rgp_divider_config *config, rgp_reading in);

/* The fixed resistor with which a sensor of `least` to `greatest` ohms uses most of the converter's range: the
 * geometric mean, from d(swing)/d(fixed) = 0. 0 < least < greatest, else 0. */
float rgp_divider_best(float least, float greatest);

/* The share of the supply's range, 0 to 1, that the converter sees between the two with this fixed resistor. */
float rgp_divider_share(float fixed, float least, float greatest);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/divider.h"

#endif
