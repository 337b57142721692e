/* Deadlines on the wall clock. */
#include "clock.h"

#include <errno.h>
#include <math.h>
#include <time.h>
#ifdef __linux__
#include <sys/prctl.h>
#endif

uint64_t clock_wall_ns(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (uint64_t)now.tv_sec * 1000000000u + (uint64_t)now.tv_nsec;
}

/* Bucket i holds lateness up to 2^(i/2) microseconds. */
static void count(wall_clock *p, uint64_t late_us)
{
    const double place = late_us > 1 ? ceil(2.0 * log2((double)late_us)) : 0.0;
    p->bucket[place < CLOCK_BUCKETS - 1 ? (int)place : CLOCK_BUCKETS - 1]++;
    p->sleeps++;
    p->worst = late_us > p->worst ? late_us : p->worst;
}

void clock_set(wall_clock *p, double times)
{
    p->times = times;
    p->begun = false;
}

void clock_begin(wall_clock *p)
{
    p->begun = false;
}

void clock_begin_at(wall_clock *p, uint64_t time_us)
{
    p->begun = true;
    p->start_ns = clock_wall_ns();
    p->start_us = time_us;
}

uint64_t clock_time_us(const wall_clock *p, uint64_t wall_ns)
{
    const int64_t time_us = (int64_t)p->start_us + ((int64_t)wall_ns - (int64_t)p->start_ns) / 1000;
    return time_us > 0 ? (uint64_t)time_us : 0;
}

/* Linux lets a sleep end up to 50 us late, to save power, unless the thread wants it sharper. */
static void sleep_sharply(void)
{
#ifdef __linux__
    prctl(PR_SET_TIMERSLACK, 1ul, 0ul, 0ul, 0ul);
#endif
}

void clock_sleep(wall_clock *p, uint64_t time_us)
{
    if (!p->sharp) {
        p->sharp = true;
        sleep_sharply();
    }
    if (!p->begun) {
        clock_begin_at(p, time_us);
    }
    const double times = p->times > 0.0 ? p->times : 1.0;
    const uint64_t ahead_us = time_us > p->start_us ? time_us - p->start_us : 0;
    const uint64_t due = p->start_ns + (uint64_t)((double)ahead_us * 1000.0 / times);
    const struct timespec until = {(time_t)(due / 1000000000u), (long)(due % 1000000000u)};
    if (clock_nanosleep(CLOCK_MONOTONIC, TIMER_ABSTIME, &until, NULL) == EINTR) {
        return;
    }
    const uint64_t now = clock_wall_ns();
    count(p, now > due ? (now - due) / 1000u : 0);
}

static uint64_t share(const wall_clock *p, double part)
{
    uint64_t seen = 0;
    for (int i = 0; i < CLOCK_BUCKETS; i++) {
        seen += p->bucket[i];
        if (p->sleeps > 0 && (double)seen >= part * (double)p->sleeps) {
            const uint64_t limit = (uint64_t)pow(2.0, i / 2.0);
            return limit < p->worst ? limit : p->worst;
        }
    }
    return 0;
}

rgp_lateness clock_lateness(const wall_clock *p)
{
    return (rgp_lateness){p->sleeps, share(p, 0.5), share(p, 0.99), p->worst};
}
