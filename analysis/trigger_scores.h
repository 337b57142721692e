/* The heights that a value went to and stayed at, in each event and in each piece of idle time: the greatest limit at
 * which a rule with that width and margin would still fire there. It has to pass the limit, and for the width to stay
 * above the limit less the margin. */
#ifndef ANALYSIS_TRIGGER_SCORES_H
#define ANALYSIS_TRIGGER_SCORES_H

#include "labels.h"
#include "series.h"

/* Below a limit counts as above it of the negative value, so that everywhere here more is nearer to firing. */
typedef struct rgp_trigger_scores {
    uint32_t width; /* rows */
    double *event;  /* by event; -INFINITY where there is no value */
    double *piece;  /* by piece */
} rgp_trigger_scores;

/* The form of the rule that they are taken for; the width is in rows. */
typedef struct rgp_trigger_form {
    bool above;
    uint32_t width;
    double margin;
} rgp_trigger_form;

/* Of one of the series' signals. */
void rgp_trigger_scores_of(const rgp_series *series, guint name, const rgp_labels *labels, const rgp_trigger_form *form,
                           rgp_trigger_scores *to);

/* For several widths at once; the form's own is not looked at. */
void rgp_trigger_scores_by(const rgp_series *series, guint name, const rgp_labels *labels, const rgp_trigger_form *form,
                           const uint32_t *width, guint widths, rgp_trigger_scores *to);
void rgp_trigger_scores_clear(rgp_trigger_scores *scores);

/* The likeness of idle time, by the blocks that choose, or of one recording (`run` < runs) by all: in the signal's
 * unit.
 */
typedef struct rgp_idle_level {
    double median, sigma, count; /* the noise of one reading; the least step, 0 where none is seen */
    double spread;               /* of the medians of blocks within a recording */
} rgp_idle_level;
rgp_idle_level rgp_idle_level_of(const rgp_series *series, guint name, const rgp_labels *labels, guint run);

/* The time after which being beyond a limit tells hardly anything (autocorrelation under 0.1): a limit so low that 30
 * pieces of idle time go beyond it, or of fewer than 60 the half. */
double rgp_idle_memory(const rgp_series *series, guint name, const rgp_labels *labels, bool above);

#endif
