/* The inside of rigpulse/detect/moment.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DETECT_MOMENT_H
#define RIGPULSE_INSIDE_DETECT_MOMENT_H

#include "rigpulse/detect/moment.h"

RGP_DECLARATIONS_BEGIN

static inline float rgp_moment(float age)
{
    return 1.0f + (age > 0.0f ? age : 0.0f);
}

static inline float rgp_moment_age(float moment)
{
    return moment > 1.0f ? moment - 1.0f : 0.0f;
}

RGP_DECLARATIONS_END

#endif
