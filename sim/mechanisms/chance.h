/* Numbers that are always the same for the same day, and look like chance: what happens by itself in a mechanism. */
#ifndef SIM_MECHANISMS_CHANCE_H
#define SIM_MECHANISMS_CHANCE_H

#include <stdint.h>

/* From 0 to below 1: number `k` of the row `row` of a day. By whole numbers alone, so that it is the same on every
 * machine (the mixing is that of a linear congruence and two shifts: Steele, Lea and Flood 2014). */
static inline double mechanism_chance(double day, uint32_t row, double k)
{
    uint64_t x = (uint64_t)(int64_t)day * 0x9E3779B97F4A7C15u + (uint64_t)(int64_t)k * 0xD1B54A32D192ED03u + row + 1u;
    x = (x ^ x >> 30) * 0xBF58476D1CE4E5B9u;
    x = (x ^ x >> 27) * 0x94D049BB133111EBu;
    x ^= x >> 31;
    return (double)(x >> 11) / 9007199254740992.0;
}

#endif
