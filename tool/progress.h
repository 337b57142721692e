/* A line on standard error that tells how many runs are made, where a person waits at a terminal. */
#ifndef TOOL_PROGRESS_H
#define TOOL_PROGRESS_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

typedef struct progress {
    gint64 begun_us;
    uint32_t runs;
    bool told;
} progress;

/* From now on an interrupt is caught. `runs`: 0 where nobody knows how many there will be. */
progress progress_begin(uint32_t runs);

/* False when the user has asked for an end. For rgp_simulated_runs(): `self` is a progress. */
bool progress_tell(void *self, uint32_t done);

/* Takes the line back. */
void progress_end(const progress *of);

#endif
