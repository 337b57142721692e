/* A stretch as it would have gone with other gains: what was measured, and what a model of the mechanism makes of
 * driving otherwise. Whatever came from outside is in what was measured, so it comes again. The controller is the
 * product's own block with its limits; the model is taken as it was found, and with each of its gain and its dead time
 * off by a third, of which the worst counts. */
#ifndef ANALYSIS_FORESIGHT_H
#define ANALYSIS_FORESIGHT_H

#include "diagnosis.h"
#include "plant.h"

typedef struct rgp_foresight rgp_foresight;

typedef struct rgp_foreseen {
    double error; /* mean size of the error, in that of the stretch as it was */
    double way;   /* of the output from step to step, on average, in its travel */
} rgp_foreseen;

/* Of a run of at least one row, of which at most 4000 steps are looked at, those of the greatest errors; `step`:
 * seconds from one to the next. The plant is one that its controller drives the right way. To be freed. */
rgp_foresight *rgp_foresight_of(const rgp_loop_run *run, const rgp_plant *plant, double step);
rgp_foreseen rgp_foresee(const rgp_foresight *of, const rgp_pid_gains *gains);

/* On one plant alone, with a gain of that sign. */
rgp_foreseen rgp_foresee_on(const rgp_foresight *of, const rgp_plant *plant, const rgp_pid_gains *gains);
void rgp_foresight_free(rgp_foresight *of);
G_DEFINE_AUTOPTR_CLEANUP_FUNC(rgp_foresight, rgp_foresight_free)

#endif
