/* line: a straight line, out = in * gain + offset. A result that no float can hold is 0, out of range; so is one that
 * is farther beyond the results for which the line is known than 2 % of the way between them, where those are said,
 * with its value as it is. */
#ifndef RIGPULSE_CONDITION_LINE_H
#define RIGPULSE_CONDITION_LINE_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

#define RP_LINE_BEYOND_BY 0.02f /* of the way from low to high */

typedef struct rp_line_config {
    float gain;   /* output unit per input unit; not 0 */
    float offset; /* output unit */
    float low;    /* the results for which it is known, output unit; both the same: all */
    float high;   /* not below low */
} rp_line_config;

/* RP_E_CONFIG when a number is not finite, the gain is 0, or high is below low. */
rp_status rp_line_check(const rp_line_config *config);

/* The part of rp_line_step() for a line that is not known everywhere. */
rp_reading rp_line_within(const rp_line_config *config, rp_reading out);

static inline rp_reading rp_line_step(const rp_line_config *config, rp_reading in)
{
    const rp_reading out = rp_number(in.value * config->gain + config->offset, in.quality);
    return config->low < config->high ? rp_line_within(config, out) : out;
}

/* The same of a whole number that a float may not hold: the result is the float nearest to the exact one. */
rp_reading rp_line_whole(const rp_line_config *config, int32_t raw, rp_quality quality);

#endif
