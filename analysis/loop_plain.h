/* Advice on a recorded loop that has no gains: one that switches, or moves its output step by step. */
#ifndef ANALYSIS_LOOP_PLAIN_H
#define ANALYSIS_LOOP_PLAIN_H

#include "rigpulse/image.h"
#include "rigpulse/regulate/onoff.h"
#include "runtime/history.h"

#include <glib.h>
#include <stdbool.h>

typedef struct rgp_plain_advice {
    double begin, end;  /* seconds: the longest stretch in which it drove, at most its newest million rows */
    GString *says;      /* a sentence without a full stop; NULL: it never drove */
    const char *remedy; /* what to do; NULL: nothing is known */
    char *next;         /* a trial as `rigpulse tune` takes it; NULL: none */
} rgp_plain_advice;

/* The controller of a loop that switches, as its text has it, which lives as long as the image; NULL: it is another. */
const rgp_onoff_config *rgp_loop_onoff(const rgp_image_header *image, uint32_t loop);

/* Of rows from one up to another. False: it has gains, or the history does not hold its columns. Frees with
 * rgp_plain_advice_clear(). */
bool rgp_plain_advice_of(rgp_history *history, uint32_t loop, uint64_t from, uint64_t to, rgp_plain_advice *advice);
void rgp_plain_advice_clear(rgp_plain_advice *advice);

#endif
