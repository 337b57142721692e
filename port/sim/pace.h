/* Absolute deadlines on the wall clock, and how late they were met. */
#ifndef PORT_SIM_PACE_H
#define PORT_SIM_PACE_H

#include "sim.h"

#define PACE_BUCKETS 64

typedef struct pace {
    bool begun;
    double times;                /* as fast as the wall clock; 0: once */
    uint64_t start_ns, start_us; /* of the wall and of the port, at the first sleep */
    uint64_t sleeps, worst;
    uint64_t bucket[PACE_BUCKETS]; /* by eighths of powers of two, see pace.c */
} pace;

/* The next sleep is the first: its time is now. */
void pace_begin(pace *p);

/* Sleeps until `time_us` after the first call; returns early when a signal comes. */
void pace_sleep(pace *p, uint64_t time_us);

/* From the next sleep on, so many times as fast as the wall clock. */
void pace_set(pace *p, double times);

rp_lateness pace_lateness(const pace *p);

#endif
