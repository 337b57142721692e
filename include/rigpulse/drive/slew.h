/* slew (rate limiter): a command that changes no faster than the mechanism may be asked to. */
#ifndef RIGPULSE_DRIVE_SLEW_H
#define RIGPULSE_DRIVE_SLEW_H

#include "rigpulse/linkage.h"

RGP_DECLARATIONS_BEGIN

/* `last`: what came out before; `most`: the greatest change in this step, above 0. */
static inline float rgp_slew(float asked, float last, float most)
{
    if (asked > last + most) {
        return last + most;
    }
    return asked < last - most ? last - most : asked;
}

RGP_DECLARATIONS_END

#endif
