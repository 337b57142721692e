/* A threshold found from recordings in which people have marked idle time and events: chosen on one part, judged by the
 * engine on the other, with what would tell them apart better, and with what speaks against it. */
#ifndef ANALYSIS_THRESHOLD_H
#define ANALYSIS_THRESHOLD_H

#include "trigger_tally.h"

#include "rigpulse/edit.h"

#define RGP_REMEDIES_MOST 3u

typedef struct rgp_threshold_request {
    rgp_rig *rig;
    const rgp_threshold *where; /* the value; and where in the text a threshold of it stands, if `written` */
    bool written;
    rgp_recording *const *run;
    guint runs;
    const char *idle, *event; /* names of marks; event NULL: the only other one */
    rgp_trigger_cost cost;
    bool remedies; /* other stages are tried as well */
} rgp_threshold_request;

/* A value with a threshold, chosen and judged. */
typedef struct rgp_finding {
    char *value;      /* an expression of the rig's language */
    const char *unit; /* of its limit; belongs to the rig */
    char *margin_unit;
    rgp_trigger trigger;
    uint32_t width; /* rows */
    double cost;    /* by the scores that choose */
    double fires_again_s;

    rgp_tally judged;        /* by the engine, on what is held out */
    uint32_t missed, events; /* of those held out, or each left out in turn */
    rgp_interval false_rate; /* an hour */
    rgp_interval missed_share;
    double level; /* of both: 0.95, or more where several are printed */

    double area;           /* under the curve */
    double dispersion;     /* of what would fire in idle time, at a limit low enough to see 30 of them */
    uint32_t clumps, seen; /* that those form */
} rgp_finding;

typedef struct rgp_threshold_study {
    rgp_labels *labels;
    rgp_series *series; /* of what has been asked for */
    rgp_trigger_widths widths;
    rgp_idle_level idle;
    rgp_trigger_cost cost;
    double block_s;
    rgp_finding chosen, present; /* present: as it stands in the text; value NULL: none does */
    GArray *remedy;              /* rgp_finding, the best first */
    GPtrArray *firings;          /* of the chosen one, by recording: arrays of rows */
    GPtrArray *refusal;          /* sentences: why nothing can be promised; empty: something can */
    char *says;                  /* remarks of the replays */
} rgp_threshold_study;

/* The request's parts must outlive it. NULL with *error. */
rgp_threshold_study *rgp_threshold_study_of(const rgp_threshold_request *request, GError **error);
void rgp_threshold_study_free(rgp_threshold_study *study);

/* The scores of a finding's width. */
const rgp_trigger_scores *rgp_finding_scores(const rgp_trigger_widths *widths, const rgp_finding *finding);

/* "on noise above 35 counts, margin 13 counts for 240 ms", and below it the holdoff: a rule's first lines. To be
 * freed. */
char *rgp_finding_rule(const rgp_finding *finding);

#endif
