/* The inside of rigpulse/drive/limit.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DRIVE_LIMIT_H
#define RIGPULSE_INSIDE_DRIVE_LIMIT_H

#include "rigpulse/drive/limit.h"

RGP_DECLARATIONS_BEGIN

static inline float rgp_limit(float asked, float low, float high)
{
    if (asked < low) {
        return low;
    }
    return asked > high ? high : asked;
}

RGP_DECLARATIONS_END

#endif
