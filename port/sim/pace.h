/* Absolute deadlines on the wall clock, and how late they were met. */
#ifndef PORT_SIM_PACE_H
#define PORT_SIM_PACE_H

#include "sim.h"

#define PACE_BUCKETS 64

typedef struct pace {
    bool begun;
    uint64_t start_ns;
    uint64_t sleeps, worst;
    uint64_t bucket[PACE_BUCKETS]; /* by eighths of powers of two, see pace.c */
} pace;

/* The next sleep is the first: its time is now. */
void pace_begin(pace *p);

/* Sleeps until `time_us` after the first call; returns early when a signal comes. */
void pace_sleep(pace *p, uint64_t time_us);

rp_lateness pace_lateness(const pace *p);

#endif
