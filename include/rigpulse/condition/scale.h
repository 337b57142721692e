/* scale: gain and offset. A result that no float can hold is 0, out of range. */
#ifndef RIGPULSE_CONDITION_SCALE_H
#define RIGPULSE_CONDITION_SCALE_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_scale_config {
    float gain;   /* output unit per input unit; not 0 */
    float offset; /* output unit */
} rp_scale_config;

/* RP_E_CONFIG when a number is not finite or the gain is 0. */
rp_status rp_scale_check(const rp_scale_config *config);

static inline rp_reading rp_scale_step(const rp_scale_config *config, rp_reading in)
{
    return rp_number(in.value * config->gain + config->offset, in.quality);
}

#endif
