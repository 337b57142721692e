/* Many simulated runs, on all cores. */
#ifndef ANALYSIS_SIMULATED_RUNS_H
#define ANALYSIS_SIMULATED_RUNS_H

#include "runtime/history.h"

#include <glib.h>

/* A run that is asked for; whoever asks owns it. */
typedef struct rgp_run_ask {
    const char *path, *text; /* of a rig file; each run compiles its own */
    char **set;              /* NAME=VALUE ..., NULL at the end; or NULL */
    uint64_t seed, length_us;
    double off; /* share by which each setting of a mechanism, but where and when it begins, may be other than written:
                   drawn evenly, by the seed; 0: none is */
    void *self; /* handed to `take` */
} rgp_run_ask;

/* Does them all. `take` gets the history of each that came to its end, within the thread that ran it: several at once.
 * `progress` is called a few times a second by the caller's thread; false stops it, and what has not begun is left out.
 * Either may be NULL. False with *error when one could not begin, or was refused a parameter: then the others are
 * stopped, too. */
bool rgp_simulated_runs(const rgp_run_ask *ask, uint32_t runs, void (*take)(void *self, rgp_history *history),
                        bool (*progress)(void *self, uint32_t done), void *self, GError **error);

#endif
