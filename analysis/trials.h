/* Trials of a loop's gains, one after another: what a later one shows of what an earlier one seemed to be. */
#ifndef ANALYSIS_TRIALS_H
#define ANALYSIS_TRIALS_H

#include "diagnosis.h"
#include "trial.h"

typedef struct rgp_tried {
    guint number; /* that the user knows it by */
    rgp_loop_run run;
    const rgp_diagnosis *diagnosis; /* NULL: the loop was lost in it */
    double error;                   /* the integral of its size; INFINITY: it was broken off */
} rgp_tried;

/* A sentence on the last of so many trials of the same test, without a full stop: what is the matter with it, or, where
 * it took an advice and was worse, that it is not that. The next trial, to be freed, or NULL. */
char *rgp_trials_say(const rgp_tried *trial, guint count, const rgp_trial_names *names, GString *says);

#endif
