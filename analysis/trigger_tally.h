/* A rule's score on recordings: its firings held against what people have said of the recordings. */
#ifndef ANALYSIS_TRIGGER_TALLY_H
#define ANALYSIS_TRIGGER_TALLY_H

#include "counts.h"
#include "trigger_choice.h"

typedef struct rgp_tally {
    uint32_t falses;   /* firings in idle time */
    double exposure_s; /* idle time that was looked at: without bad readings, holdoffs, and what is too near a border */
    uint32_t events, missed, doubled; /* doubled: it fired more than once */
} rgp_tally;

/* `rows`: by recording, the rows of firings. Of what judges, or of what chooses. */
rgp_tally rgp_tally_of(const rgp_labels *labels, const rgp_series *series, guint name, GArray *const *rows,
                       double holdoff_s, bool judging);

/* The same of a rule that is run over the values without the engine. */
rgp_tally rgp_tally_by(const rgp_labels *labels, const rgp_series *series, guint name, const rgp_trigger *trigger,
                       bool judging);

/* The choice as a rule has it: a round limit within `low` to `high` (in the signal's unit), a margin against its noise,
 * a holdoff for what fires again; each varied once around what was found, and with
 * them the width of the choice. `spacing_short`: the holdoff is as long as
 * events leave room for, and shorter than one of them fires again. */
typedef struct rgp_trigger_range {
    double low, high;            /* that the limit may be */
    bool width, margin, holdoff; /* which can be written */
} rgp_trigger_range;
double rgp_trigger_margin(const rgp_idle_level *idle); /* before anything is known of the limit */
rgp_trigger rgp_trigger_settle(const rgp_trigger_ask *ask, const rgp_series *series, guint name,
                               rgp_trigger_choice *choice, const rgp_trigger_range *range, double *fires_again_s);

/* Of events of which each was left out in turn: how many the limit that the others chose would have missed. */
uint32_t rgp_trigger_left_out_missed(const rgp_trigger_ask *ask);

#endif
