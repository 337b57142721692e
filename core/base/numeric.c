/* The core's own mathematics: exponential, logarithm and arc tangent as polynomials, the same on every machine.
 */
#include "rigpulse/numeric.h"

#include <stdint.h>
#include <string.h>

/* x = k ln 2 + r with |r| <= ln 2 / 2; e^r by its Taylor polynomial of degree 7, whose remainder there
 * is below 6e-9; ln 2 is split so that k times its upper part is exact (Cody and Waite, 1980). */
float rgp_exp(float x)
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

/* Up to 1/2 by the series x - x^2/2! + x^3/3! - ... to the eighth power, whose remainder there is below 6e-9; above by
 * the exponential, where the difference to 1 loses nothing that matters. */
float rgp_decay(float x)
{
    if (!(x > 0.0f)) {
        return 0.0f;
    }
    if (x > 0.5f) {
        return 1.0f - rgp_exp(-x);
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

/* x = 2^k m with m in sqrt(1/2)..sqrt(2); ln m = 2 artanh((m - 1) / (m + 1)), by its series to the ninth power. */
float rgp_log(float x)
{
    if (!(x > 1.2e-38f)) {
        return -88.0f;
    }
    uint32_t bits;
    memcpy(&bits, &x, sizeof bits);
    int32_t k = (int32_t)(bits >> 23) - 127;
    bits = (bits & 0x007FFFFFu) | 0x3F800000u;
    float m;
    memcpy(&m, &bits, sizeof m);
    if (m > 1.41421356f) {
        m *= 0.5f;
        k++;
    }
    const float s = (m - 1.0f) / (m + 1.0f), q = s * s;
    const float series = q * (1.0f / 3.0f + q * (0.2f + q * (1.0f / 7.0f + q * (1.0f / 9.0f))));
    return ((float)k * -2.12194440e-4f + 2.0f * s * series) + 2.0f * s + (float)k * 0.693359375f;
}

/* Folded into 0..tan(22.5 degrees), where the series to the 15th power is exact to a float's step. */
static float atan_of(float x)
{
    const bool far = x > 0.414213562f;
    const float r = far ? (x - 1.0f) / (x + 1.0f) : x;
    const float q = r * r;
    float p = -1.0f / 15.0f;
    p = p * q + 1.0f / 13.0f;
    p = p * q - 1.0f / 11.0f;
    p = p * q + 1.0f / 9.0f;
    p = p * q - 1.0f / 7.0f;
    p = p * q + 1.0f / 5.0f;
    p = p * q - 1.0f / 3.0f;
    p = p * q * r + r;
    return far ? p + 0.785398163f : p;
}

float rgp_atan2_degrees(float y, float x)
{
    const float up = y < 0.0f ? -y : y, across = x < 0.0f ? -x : x;
    if (!(up > 0.0f || across > 0.0f)) {
        return 0.0f;
    }
    const float steep = up > across ? 90.0f - atan_of(across / up) * 57.2957795f : atan_of(up / across) * 57.2957795f;
    const float turned = x < 0.0f ? 180.0f - steep : steep;
    return y < 0.0f ? -turned : turned;
}

/* mantissa * 2^exponent, the mantissa's magnitude from 2^60 up and below 2^61, or 0. */
typedef struct wide {
    bool negative;
    uint64_t mantissa;
    int32_t exponent;
} wide;

static wide wide_product(int64_t a, float x)
{
    uint32_t bits;
    memcpy(&bits, &x, sizeof bits);
    const uint32_t field = bits >> 23 & 0xFFu, fraction = bits & 0x007FFFFFu;
    wide w = {.negative = (bits >> 31 != 0) != (a < 0), .exponent = (field > 0 ? (int32_t)field : 1) - 150};
    w.mantissa = (a < 0 ? 0u - (uint64_t)a : (uint64_t)a) * (field > 0 ? fraction | 0x00800000u : fraction);
    while (w.mantissa != 0 && w.mantissa < (uint64_t)1 << 60) {
        w.mantissa <<= 1;
        w.exponent--;
    }
    return w;
}

/* In steps of 2^exponent; what falls below one leaves a mark in the last place, so that rounding heeds it. */
static int64_t in_steps(const wide *w, int32_t exponent)
{
    const int32_t down = exponent - w->exponent;
    if (w->mantissa == 0 || down < 0) { /* below 0 only of nothing */
        return 0;
    }
    const uint64_t kept = down < 64 ? w->mantissa >> down : 0;
    const bool lost = down >= 64 || kept << down != w->mantissa;
    const int64_t steps = (int64_t)(kept | lost);
    return w->negative ? -steps : steps;
}

static float power_of_two(int32_t exponent)
{
    const uint32_t bits = (uint32_t)(exponent + 127) << 23;
    float power;
    memcpy(&power, &bits, sizeof power);
    return power;
}

float rgp_nearest_sum(int64_t a, float x, int64_t b, float y)
{
    const wide first = wide_product(a, x), second = wide_product(b, y);
    int32_t exponent = first.exponent > second.exponent ? first.exponent : second.exponent;
    exponent = first.mantissa == 0 ? second.exponent : second.mantissa == 0 ? first.exponent : exponent;
    float sum = (float)(in_steps(&first, exponent) + in_steps(&second, exponent));
    for (; exponent < -120; exponent += 120) {
        sum *= power_of_two(-120);
    }
    for (; exponent > 120; exponent -= 120) {
        sum *= power_of_two(120);
    }
    return sum * power_of_two(exponent);
}
