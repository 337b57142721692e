/* deadband (dead zone): 0 while the input is within +/- width, and beyond it as far from 0 as the input is from the
 * edge. */
#ifndef RIGPULSE_CONDITION_DEADBAND_H
#define RIGPULSE_CONDITION_DEADBAND_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_deadband_config {
    float width; /* input unit; 0 or more */
} rgp_deadband_config;

/* RGP_E_CONFIG when the width is not finite or negative. */
rgp_status rgp_deadband_check(const rgp_deadband_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_deadband_fault(const rgp_deadband_config *config);

static inline rgp_reading rgp_deadband_step(const rgp_deadband_config *config, rgp_reading in)
{
    const float over = in.value > config->width    ? in.value - config->width
                       : in.value < -config->width ? in.value + config->width
                                                   : 0.0f;
    return rgp_reading_of(over, in.quality);
}

RGP_DECLARATIONS_END

#endif
