/* line (gain and offset): a straight line, out = in * gain + offset. A result that no float can hold is 0, out of
 * range; so is one that is farther beyond the results for which the line is known than 2 % of the way between them,
 * where those are said, with its value as it is. */
#ifndef RIGPULSE_CONDITION_LINE_H
#define RIGPULSE_CONDITION_LINE_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

#define RGP_LINE_BEYOND_BY 0.02f /* of the way from low to high */

typedef struct rgp_line_config {
    float gain;   /* output unit per input unit; not 0 */
    float offset; /* output unit */
    float low;    /* the results for which it is known, output unit; both the same: all */
    float high;   /* not below low */
} rgp_line_config;

/* RGP_E_CONFIG when a number is not finite, the gain is 0, or high is below low. */
rgp_status rgp_line_check(const rgp_line_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_line_fault(const rgp_line_config *config);

/* The part of rgp_line_step() for a line that is not known everywhere. */
rgp_reading rgp_line_within(const rgp_line_config *config, rgp_reading out);

static inline rgp_reading rgp_line_step(const rgp_line_config *config, rgp_reading in)
{
    const rgp_reading out = rgp_number(in.value * config->gain + config->offset, in.quality);
    return config->low < config->high ? rgp_line_within(config, out) : out;
}

/* The same of a whole number that a float may not hold: the result is the float nearest to the exact one. */
rgp_reading rgp_line_whole(const rgp_line_config *config, int32_t raw, rgp_quality quality);

RGP_DECLARATIONS_END

#endif
