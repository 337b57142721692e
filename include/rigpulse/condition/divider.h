/* divider (voltage divider): a resistance from the counts of a converter that reads the middle of a voltage divider.
 *
 *   supply --[ upper ]--+--[ lower ]-- ground         volts = counts / full * reference
 *                       |
 *                   converter
 *
 * A reading at a rail, from which no resistance can be told, is out of range. */
#ifndef RIGPULSE_CONDITION_DIVIDER_H
#define RIGPULSE_CONDITION_DIVIDER_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

enum { RGP_DIVIDER_FIXED_ABOVE = 0, RGP_DIVIDER_FIXED_BELOW = 1 };

typedef struct rgp_divider_config {
    float fixed;     /* the known resistor, in the output unit; above 0 */
    float full;      /* counts at the reference voltage; above 0 */
    float reference; /* of the converter, volts; above 0 */
    float supply;    /* of the divider, volts; above 0 */
    uint32_t side;   /* where the fixed resistor sits: RGP_DIVIDER_FIXED_ABOVE or _BELOW */
} rgp_divider_config;

/* RGP_E_CONFIG when a number is not finite or not above 0, or the side is neither. */
rgp_status rgp_divider_check(const rgp_divider_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_divider_fault(const rgp_divider_config *config);

static inline rgp_reading rgp_divider_step(const rgp_divider_config *config, rgp_reading in)
{
    const float lower = in.value / config->full * config->reference; /* volts across the lower resistor */
    const float upper = config->supply - lower;
    if (!(lower > 0.0f && upper > 0.0f)) {
        return rgp_reading_of(0.0f, rgp_worst(in.quality, RGP_OUT_OF_RANGE));
    }
    const float ratio = config->side == RGP_DIVIDER_FIXED_ABOVE ? lower / upper : upper / lower;
    return rgp_number(config->fixed * ratio, in.quality);
}

/* The fixed resistor with which a sensor of `least` to `greatest` ohms uses most of the converter's range: the
 * geometric mean, from d(swing)/d(fixed) = 0. 0 < least < greatest, else 0. */
float rgp_divider_best(float least, float greatest);

/* The share of the supply's range, 0 to 1, that the converter sees between the two with this fixed resistor. */
float rgp_divider_share(float fixed, float least, float greatest);

RGP_DECLARATIONS_END

#endif
