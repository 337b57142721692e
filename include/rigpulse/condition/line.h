/* line: a straight line, out = in * gain + offset. A result that no float can hold is 0, out of range. */
#ifndef RIGPULSE_CONDITION_LINE_H
#define RIGPULSE_CONDITION_LINE_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_line_config {
    float gain;   /* output unit per input unit; not 0 */
    float offset; /* output unit */
} rp_line_config;

/* RP_E_CONFIG when a number is not finite or the gain is 0. */
rp_status rp_line_check(const rp_line_config *config);

static inline rp_reading rp_line_step(const rp_line_config *config, rp_reading in)
{
    return rp_number(in.value * config->gain + config->offset, in.quality);
}

#endif
