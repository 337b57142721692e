/* The inside of rigpulse/drive/least.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DRIVE_LEAST_H
#define RIGPULSE_INSIDE_DRIVE_LEAST_H

#include "rigpulse/drive/least.h"

RGP_DECLARATIONS_BEGIN

static inline float rgp_least(float asked, float least)
{
    if (asked > 0.0f && asked < least) {
        return least;
    }
    return asked < 0.0f && asked > -least ? -least : asked;
}

RGP_DECLARATIONS_END

#endif
