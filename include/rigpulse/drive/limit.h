/* limit (travel limit): keeps what is asked within the actuator's travel. */
#ifndef RIGPULSE_DRIVE_LIMIT_H
#define RIGPULSE_DRIVE_LIMIT_H

#include "rigpulse/linkage.h"

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
