/* Absolute deadlines on the wall clock, and how late they were met. */
#ifndef SIM_CLOCK_H
#define SIM_CLOCK_H

#include "sim.h"

#define CLOCK_BUCKETS 64

typedef struct wall_clock {
    bool begun;
    double times;                /* as fast as the wall clock; 0: once */
    uint64_t start_ns, start_us; /* of the wall and of the port, at the first sleep */
    uint64_t sleeps, worst;
    uint64_t bucket[CLOCK_BUCKETS]; /* by eighths of powers of two, see clock.c */
} wall_clock;

/* The next sleep is the first: its time is now. */
void clock_begin(wall_clock *p);

/* Sleeps until `time_us` after the first call; returns early when a signal comes. */
void clock_sleep(wall_clock *p, uint64_t time_us);

/* From the next sleep on, so many times as fast as the wall clock. */
void clock_set(wall_clock *p, double times);

rgp_lateness clock_lateness(const wall_clock *p);

#endif
