/* The inside of rigpulse/reading.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_READING_H
#define RIGPULSE_INSIDE_READING_H

#include "rigpulse/reading.h"

RGP_DECLARATIONS_BEGIN

static inline bool rgp_usable(rgp_quality quality)
{
    return quality <= RGP_HELD;
}

static inline rgp_quality rgp_worst(rgp_quality a, rgp_quality b)
{
    return a > b ? a : b;
}

static inline rgp_reading rgp_reading_of(float value, rgp_quality quality)
{
    rgp_reading reading;
    reading.value = value;
    reading.quality = quality;
    return reading;
}

static inline rgp_reading rgp_good(float value)
{
    return rgp_reading_of(value, RGP_GOOD);
}

RGP_DECLARATIONS_END

#endif
