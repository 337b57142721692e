/* The inside of rigpulse/drive/slew.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DRIVE_SLEW_H
#define RIGPULSE_INSIDE_DRIVE_SLEW_H

#include "rigpulse/drive/slew.h"

RGP_DECLARATIONS_BEGIN

static inline float rgp_slew(float asked, float last, float most)
{
    if (asked > last + most) {
        return last + most;
    }
    return asked < last - most ? last - most : asked;
}

RGP_DECLARATIONS_END

#endif
