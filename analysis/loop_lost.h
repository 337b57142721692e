/* A run at whose end a loop did not hold what it regulates any more, as when it cuts out: it ran off to one side, or
 * swung to and fro ever farther. No statistics are behind what is said of it. */
#ifndef ANALYSIS_LOOP_LOST_H
#define ANALYSIS_LOOP_LOST_H

#include "diagnosis_words.h"

typedef struct rgp_lost {
    bool known;     /* there was enough to look at */
    uint32_t turns; /* how often the error went to the other side, beyond noise */
    double period;  /* seconds, of those turns; NAN with fewer than 3 */
    double lead;    /* quarter turns by which the derivative leads then */
} rgp_lost;

rgp_lost rgp_lost_of(const rgp_loop_run *run);

/* A sentence without a full stop, and the next trial, to be freed, or NULL. */
void rgp_lost_say(const rgp_loop_run *run, const rgp_lost *lost, GString *to);
char *rgp_lost_trial(const rgp_loop_run *run, const rgp_lost *lost, const rgp_trial_names *names);

#endif
