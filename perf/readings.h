/* Readings that make things happen: levels that are held and change, noise, spikes, a sensor that drops out. */
#ifndef PERF_READINGS_H
#define PERF_READINGS_H

#include "rigpulse/port.h"

#define CHAINS    8
#define SETS      4
#define READINGS  (CHAINS + AXES)
#define SEQUENCES 2
#define LOOPS     2
#define AXES      4 /* a turning rate and the three axes of gravity, behind the chains */

static inline uint32_t readings_chance(uint32_t *state)
{
    *state = *state * 1664525u + 1013904223u;
    return *state >> 8;
}

static inline rgp_sample reading_at(uint32_t tick, uint32_t sensor, uint32_t *chance)
{
    if (sensor >=
        CHAINS) { /* a deck that rolls to and fro, its axes in thousandths of g, its rate in tenths of a degree */
        const int32_t phase = (int32_t)((tick * 3) % 400), swing = phase < 200 ? phase - 100 : 300 - phase;
        const int32_t axis[AXES] = {phase < 200 ? 300 : -300, 20, 8 * swing, 900};
        return (rgp_sample){.raw = axis[sensor - CHAINS] + (int32_t)(readings_chance(chance) % 21) - 10};
    }
    const uint32_t level = (tick / (200 + 37 * sensor) + sensor) % 4;
    int32_t raw = (int32_t)(600 + 700 * level + readings_chance(chance) % 25);
    if (readings_chance(chance) % 100 == 0) {
        raw += 900;
    }
    const int missing = tick % 1000 > 990 && sensor == 3;
    return (rgp_sample){.raw = raw, .quality = missing ? RGP_MISSING : RGP_GOOD};
}

#endif
