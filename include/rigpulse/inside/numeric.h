/* The inside of rigpulse/numeric.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_NUMERIC_H
#define RIGPULSE_INSIDE_NUMERIC_H

#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

static inline bool rgp_finite(float x)
{
    return x - x == 0.0f;
}

static inline uint64_t rgp_microseconds(float seconds)
{
    const float s = seconds > 0.0f ? (seconds < 1e9f ? seconds : 1e9f) : 0.0f;
    const uint32_t whole = (uint32_t)s;
    const float rest = s - (float)whole; /* below 1 */
    return (uint64_t)whole * 1000000u + (uint32_t)((rest < 1.0f ? rest : 0.0f) * 1e6f + 0.5f);
}

static inline float rgp_seconds(uint64_t microseconds)
{
    return (float)microseconds / 1e6f;
}

static inline void rgp_add(float *high, float *low, float x)
{
    const float add = *low + x, sum = *high + add, taken = sum - *high;
    *low = (*high - (sum - taken)) + (add - taken);
    *high = sum;
}

static inline rgp_reading rgp_number(float x, rgp_quality quality)
{
    return rgp_finite(x) ? rgp_reading_of(x, quality)
                         : rgp_reading_of(0.0f, rgp_usable(quality) ? (rgp_quality)RGP_OUT_OF_RANGE : quality);
}

RGP_DECLARATIONS_END

#endif
