/* divider: a resistance from the counts of a converter that reads the middle of a voltage divider.
 *
 *   supply --[ upper ]--+--[ lower ]-- ground         volts = counts / full * reference
 *                       |
 *                   converter
 *
 * A reading at a rail, from which no resistance can be told, is out of range. */
#ifndef RIGPULSE_CONDITION_DIVIDER_H
#define RIGPULSE_CONDITION_DIVIDER_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

enum { RP_DIVIDER_FIXED_ABOVE = 0, RP_DIVIDER_FIXED_BELOW = 1 };

typedef struct rp_divider_config {
    float fixed;     /* the known resistor, in the output unit; above 0 */
    float full;      /* counts at the reference voltage; above 0 */
    float reference; /* of the converter, volts; above 0 */
    float supply;    /* of the divider, volts; above 0 */
    uint32_t side;   /* where the fixed resistor sits: RP_DIVIDER_FIXED_ABOVE or _BELOW */
} rp_divider_config;

/* RP_E_CONFIG when a number is not finite or not above 0, or the side is neither. */
rp_status rp_divider_check(const rp_divider_config *config);

static inline rp_reading rp_divider_step(const rp_divider_config *config, rp_reading in)
{
    const float lower = in.value / config->full * config->reference; /* volts across the lower resistor */
    const float upper = config->supply - lower;
    if (!(lower > 0.0f && upper > 0.0f)) {
        return (rp_reading){0.0f, rp_worst(in.quality, RP_OUT_OF_RANGE)};
    }
    const float ratio = config->side == RP_DIVIDER_FIXED_ABOVE ? lower / upper : upper / lower;
    return rp_number(config->fixed * ratio, in.quality);
}

/* The fixed resistor with which a sensor of `least` to `greatest` ohms uses most of the converter's range: the
 * geometric mean, from d(swing)/d(fixed) = 0. 0 < least < greatest, else 0. */
float rp_divider_best(float least, float greatest);

/* The share of the supply's range, 0 to 1, that the converter sees between the two with this fixed resistor. */
float rp_divider_share(float fixed, float least, float greatest);

#endif
