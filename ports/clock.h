/* Absolute deadlines on the wall clock, and how late they were met. */
#ifndef PORTS_CLOCK_H
#define PORTS_CLOCK_H

#include <stdbool.h>
#include <stdint.h>

#define CLOCK_BUCKETS 64

/* The lateness of sleeps, in microseconds. */
typedef struct rgp_lateness {
    uint64_t sleeps;
    uint64_t p50, p99, worst;
} rgp_lateness;

typedef struct wall_clock {
    bool begun, sharp;
    double times;                /* as fast as the wall clock; 0: once */
    uint64_t start_ns, start_us; /* of the wall and of the port, at the first sleep */
    uint64_t sleeps, worst;
    uint64_t bucket[CLOCK_BUCKETS]; /* by halves of powers of two, see clock.c */
} wall_clock;

/* The monotonic clock of the system, in nanoseconds. */
uint64_t clock_wall_ns(void);

/* The next sleep is the first: its time is now. */
void clock_begin(wall_clock *p);

/* Now it is `time_us`, whatever was before. */
void clock_begin_at(wall_clock *p, uint64_t time_us);

/* The time of a clock that has begun and goes as fast as the wall's, at a moment of the wall's; 0 before its beginning.
 */
uint64_t clock_time_us(const wall_clock *p, uint64_t wall_ns);

/* Sleeps until `time_us` after the first call; returns early when a signal comes. */
void clock_sleep(wall_clock *p, uint64_t time_us);

/* From the next sleep on, so many times as fast as the wall clock. */
void clock_set(wall_clock *p, double times);

rgp_lateness clock_lateness(const wall_clock *p);

#endif
