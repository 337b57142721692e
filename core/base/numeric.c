#include "rigpulse/numeric.h"

#include <stdint.h>
#include <string.h>

/* x = k ln 2 + r with |r| <= ln 2 / 2; e^r by its Taylor polynomial of degree 7, whose remainder there
 * is below 6e-9; ln 2 is split so that k times its upper part is exact (Cody and Waite, 1980). */
float rp_exp(float x)
{
    if (x > 88.0f) {
        x = 88.0f;
    }
    if (!(x > -87.0f)) {
        x = -87.0f;
    }
    const int32_t k = (int32_t)(x * 1.44269504f + (x < 0.0f ? -0.5f : 0.5f));
    const float r = (x - (float)k * 0.693359375f) + (float)k * 2.12194440e-4f;
    float p = 1.0f / 5040.0f;
    p = p * r + 1.0f / 720.0f;
    p = p * r + 1.0f / 120.0f;
    p = p * r + 1.0f / 24.0f;
    p = p * r + 1.0f / 6.0f;
    p = p * r + 0.5f;
    p = (p * r * r + r) + 1.0f;
    const uint32_t bits = (uint32_t)(k + 127) << 23;
    float scale;
    memcpy(&scale, &bits, sizeof scale);
    return p * scale;
}

float rp_decay(float x)
{
    if (!(x > 0.0f)) {
        return 0.0f;
    }
    if (x > 0.5f) {
        return 1.0f - rp_exp(-x);
    }
    float p = 1.0f / 40320.0f;
    p = 1.0f / 5040.0f - p * x;
    p = 1.0f / 720.0f - p * x;
    p = 1.0f / 120.0f - p * x;
    p = 1.0f / 24.0f - p * x;
    p = 1.0f / 6.0f - p * x;
    p = 0.5f - p * x;
    return x - p * x * x;
}
