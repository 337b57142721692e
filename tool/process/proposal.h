/* Gains for a loop, proposed from a model of what it regulates, with what is predicted of them and of those that stand
 * in the file. */
#ifndef TOOL_PROCESS_PROPOSAL_H
#define TOOL_PROCESS_PROPOSAL_H

#include "subject.h"

#include "analysis/rehearsal.h"
#include "analysis/suggestion.h"
#include "tool/tune/tune.h"

enum { PROPOSAL_STEP, PROPOSAL_PUSH, PROPOSAL_TESTS };
enum { PROPOSAL_SUGGESTED, PROPOSAL_STANDING, PROPOSAL_SIDES };

typedef struct proposal_options {
    subject_options of;
    char *want, *step, *push, *picture;
    gboolean try, write, json;
} proposal_options;

/* Gains with what is predicted of them. */
typedef struct proposal_side {
    rgp_pid_config pid;
    double gain[TUNE_VALUES];            /* gains and settings, in the order of the tuning */
    rgp_margins margins, corners, worst; /* as of a suggestion */
    rgp_rehearsed *of[PROPOSAL_TESTS];
} proposal_side;

typedef struct proposal {
    const proposal_options *o;
    const rgp_want *want;
    subject s;
    tuning t;
    const rgp_predict_config *predict; /* the line on whose word the loop acts; NULL: there is none */
    rgp_process p;
    rgp_suggestion found;
    double at;                   /* output units: what is driven at the setpoint */
    bool led;                    /* its setpoint is neither a constant nor a parameter */
    double size[PROPOSAL_TESTS]; /* of a step of the setpoint, and of a push of the output */
    double length;               /* seconds that a test is looked at */
    proposal_side side[PROPOSAL_SIDES];
    const tune_try *tried[PROPOSAL_TESTS]; /* on the rig itself; NULL: not */
} proposal;

/* All but the trial. False, which has been said, when there is nothing to propose; *status is then what to exit with.
 * proposal_clear() is due in any case. */
bool proposal_make(proposal *p, const command *self, const proposal_options *o, const char *path, const char *loop,
                   int *status);
void proposal_clear(proposal *p);

/* Both tests on the simulated rig, with the gains that are suggested. False, which has been said, when it cannot. */
bool proposal_try(proposal *p);

/* The trial that was broken off; NULL: none was. */
const tune_try *proposal_broken(const proposal *p);

void proposal_print(const proposal *p);
void proposal_print_json(const proposal *p);

/* The picture's script; the caller frees it. */
GString *proposal_script(const proposal *p, const char *path);

#endif
