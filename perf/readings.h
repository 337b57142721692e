/* Readings that make things happen: levels that are held and change, noise, spikes, a sensor that drops out. */
#ifndef PERF_READINGS_H
#define PERF_READINGS_H

#include "rigpulse/port.h"

#define CHAINS 8
#define SETS   4

static inline uint32_t readings_chance(uint32_t *state)
{
    *state = *state * 1664525u + 1013904223u;
    return *state >> 8;
}

static inline rp_sample reading_at(uint32_t tick, uint32_t sensor, uint32_t *chance)
{
    const uint32_t level = (tick / (200 + 37 * sensor) + sensor) % 4;
    int32_t raw = (int32_t)(600 + 700 * level + readings_chance(chance) % 25);
    if (readings_chance(chance) % 100 == 0) {
        raw += 900;
    }
    const int missing = tick % 1000 > 990 && sensor == 3;
    return (rp_sample){0, raw, missing ? RP_MISSING : RP_GOOD};
}

#endif
