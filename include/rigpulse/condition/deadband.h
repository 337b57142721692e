/* deadband: 0 while the input is within +/- width, and beyond it as far from 0 as the input is from the edge. */
#ifndef RIGPULSE_CONDITION_DEADBAND_H
#define RIGPULSE_CONDITION_DEADBAND_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_deadband_config {
    float width; /* input unit; 0 or more */
} rp_deadband_config;

/* RP_E_CONFIG when the width is not finite or negative. */
rp_status rp_deadband_check(const rp_deadband_config *config);

static inline rp_reading rp_deadband_step(const rp_deadband_config *config, rp_reading in)
{
    const float over = in.value > config->width    ? in.value - config->width
                       : in.value < -config->width ? in.value + config->width
                                                   : 0.0f;
    return (rp_reading){over, in.quality};
}

#endif
