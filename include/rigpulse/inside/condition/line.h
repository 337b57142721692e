/* The inside of rigpulse/condition/line.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_LINE_H
#define RIGPULSE_INSIDE_CONDITION_LINE_H

#include "rigpulse/condition/line.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

/* The part of rgp_line_step() for a line that is not known everywhere. */
rgp_reading rgp_line_within(const rgp_line_config *config, rgp_reading out);

static inline rgp_reading rgp_line_step(const rgp_line_config *config, rgp_reading in)
{
    const rgp_reading out = rgp_number(in.value * config->gain + config->offset, in.quality);
    return config->low < config->high ? rgp_line_within(config, out) : out;
}

RGP_DECLARATIONS_END

#endif
