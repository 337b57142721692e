/* The inside of rigpulse/condition/root.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_ROOT_H
#define RIGPULSE_INSIDE_CONDITION_ROOT_H

#include "rigpulse/condition/root.h"
#include "rigpulse/numeric.h"

#include <math.h>

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_root_step(const rgp_root_config *config, rgp_reading in)
{
    (void)config;
    return rgp_number(sqrtf(in.value), in.quality);
}

RGP_DECLARATIONS_END

#endif
