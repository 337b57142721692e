/* Priority and locked memory (POSIX.1, realtime scheduling and memory locking). */
#include "realtime.h"

#include <errno.h>
#include <sched.h>
#include <stdbool.h>
#include <sys/mman.h>
#include <sys/resource.h>
#include <pthread.h>

#define PRIORITY 50 /* above all without one, below what the kernel does itself */

/* A limit that is in force would make a later request for memory fail, which ends the process: without it, all or
 * nothing. */
static bool lock_memory(void)
{
    struct rlimit limit;
    return getrlimit(RLIMIT_MEMLOCK, &limit) == 0 && limit.rlim_cur == RLIM_INFINITY &&
           mlockall(MCL_CURRENT | MCL_FUTURE) == 0;
}

static bool set_priority(int policy, int priority)
{
    const struct sched_param with = {.sched_priority = priority};
    return pthread_setschedparam(pthread_self(), policy, &with) == 0;
}

char *realtime_begin(void)
{
    const bool first = set_priority(SCHED_FIFO, PRIORITY), locked = lock_memory();
    return g_strdup_printf(
        "real time: %s; %s",
        first ? "the ticks go before all other work" : "no priority (the system allows none: see ulimit -r)",
        locked ? "memory is locked" : "memory is not locked (its limit has to be lifted: ulimit -l unlimited)");
}

void realtime_leave(void)
{
    set_priority(SCHED_OTHER, 0);
}
