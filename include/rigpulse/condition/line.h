/* line (gain and offset): a straight line, out = in * gain + offset. A result that no float can hold is 0, out of
 * range; so is one that is farther beyond the results for which the line is known than 2 % of the way between them,
 * where those are said, with its value as it is. */
#ifndef RIGPULSE_CONDITION_LINE_H
#define RIGPULSE_CONDITION_LINE_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_LINE_BEYOND_BY 0.02f /* of the way from low to high */

/* The settings: the caller's, and only read. */
typedef struct rgp_line_config {
    float gain;   /* output unit per input unit; not 0 */
    float offset; /* output unit */
    float low;    /* the results for which it is known, output unit; both the same: all */
    float high;   /* not below low */
} rgp_line_config;

/* RGP_E_CONFIG when a number is not finite, the gain is 0, or high is below low. Else RGP_OK. Only the settings are
 * looked at. */
rgp_status rgp_line_check(const rgp_line_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_line_fault(const rgp_line_config *config);

/* The result, and how far it can be trusted: no further than what goes in.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_line_step(const rgp_line_config *config, rgp_reading in);

/* The same of a whole number that a float may not hold: the result is the float nearest to the exact one. */
rgp_reading rgp_line_whole(const rgp_line_config *config, int32_t raw, rgp_quality quality);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/line.h"

#endif
