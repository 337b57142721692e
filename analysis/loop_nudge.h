/* A loop that moves its output step by step ('nudge'): whether its steps come faster than what it regulates can follow.
 * By two figures of the second half of a run, with no statistics behind them. */
#ifndef ANALYSIS_LOOP_NUDGE_H
#define ANALYSIS_LOOP_NUDGE_H

#include "response.h"

#include <glib.h>
#include <stddef.h>

typedef struct rgp_nudged {
    const rgp_response_row *row;
    size_t rows;
    double stride;    /* in the unit in which it is written, as it was */
    double tolerance; /* measured units, as it was */
    const char *unit; /* of what is measured; "" */
} rgp_nudged;

/* A sentence without a full stop; the next stride as `rigpulse tune` takes it, to be freed, or NULL. */
char *rgp_nudge_advice(const rgp_nudged *of, GString *to);

#endif
