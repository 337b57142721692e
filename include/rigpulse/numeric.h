/* The few functions the core needs beyond + - * / and sqrtf, as polynomials of its own: C libraries
 * differ in the last bit, and the same image must give the same bits everywhere. */
#ifndef RIGPULSE_NUMERIC_H
#define RIGPULSE_NUMERIC_H

#include "rigpulse/linkage.h"
#include "rigpulse/reading.h"

RGP_DECLARATIONS_BEGIN

/* e to the power x. x is clamped to -87 .. 88, so the result is always finite and positive.
 * Largest relative error 1.2e-7 (two units in the last place). Callable from anywhere. */
float rgp_exp(float x);

/* 1 - e^(-x) for x >= 0 (a negative x counts as 0): the share of a step that a first-order lag has
 * taken after x time constants. No cancellation for small x; largest relative error 2.4e-7. */
float rgp_decay(float x);

/* The natural logarithm of a positive number; a number that is not positive gives -88. Largest absolute error 2e-7
 * below 8 in size, largest relative error 1.5e-7 above. */
float rgp_log(float x);

/* The direction of (x, y) in degrees, -180..180; 0 for (0, 0). Largest error 3e-5 degrees. */
float rgp_atan2_degrees(float y, float x);

/* True for a number that is neither infinite nor NaN. */
static inline bool rgp_finite(float x);

/* A time step or a setting in whole microseconds, so that long times lose nothing when they are added up; from 0 to
 * 1e9 s. */
static inline uint64_t rgp_microseconds(float seconds);

/* Whole microseconds as seconds: to the nearest float or the one beside it, so that 180 000 reads 0.18. */
static inline float rgp_seconds(uint64_t microseconds);

/* a * x + b * y: the float nearest to the exact result, of two the even one (round to nearest, IEEE 754). a and b from
 * -2^36 to 2^36; x and y finite. A result below the normal floats may be off by one more of their steps. */
float rgp_nearest_sum(int64_t a, float x, int64_t b, float y);

/* Adds x to a number that is kept in two floats, high + low, so that small steps are not lost beside a great sum; low
 * stays below half a unit in the last place of high. Exact but for the rounding of low (the sum of two floats without
 * error: Moller, 1965, Knuth, 1969; kept along: Kahan, 1965, Neumaier, 1974). */
static inline void rgp_add(float *high, float *low, float x);

/* A computed number as a reading: one that is not finite is 0, and out of range, unless it is made of something that
 * was bad already. */
static inline rgp_reading rgp_number(float x, rgp_quality quality);

RGP_DECLARATIONS_END

#include "rigpulse/inside/numeric.h"

#endif
