/* The figures of a run: what its loops, rules, actuators and signals did between two moments. One definition each. */
#ifndef ANALYSIS_SCORES_H
#define ANALYSIS_SCORES_H

#include "runtime/history.h"

#include <glib.h>

/* LESS: a smaller figure is the better one. */
typedef enum rgp_score_taste { RGP_SCORE_NEITHER, RGP_SCORE_LESS } rgp_score_taste;

typedef struct rgp_score {
    char *name;    /* "steam IAE", "line 22 fired" */
    char *unit;    /* "" for a bare number */
    double value;  /* NAN: it has none in this run */
    bool never;    /* it did not come to pass, as of settling: worse than any that did */
    bool positive; /* above 0 always, so that a difference is a share of it */
    bool main;     /* what one compares runs for; else one of many that describe a signal */
    rgp_score_taste taste;
} rgp_score;

/* The figures of the rows that are not before `from_us` and before `to_us`, in this order.
 *
 * Of a loop: settling (from `from_us` until its error stays within the band of analysis/response.h for good; never,
 * when it did not), peak (the greatest error), steady error (its size at the end), IAE (the integral of the absolute
 * error), effort (the way of its output, to and fro), saturated, switchings; of one that swings its decay ratio and its
 * period.
 *
 * Of a rule: fired, how often, and the mean interval between its firings. Of an actuator: driven (seconds away from
 * rest), switchings (how often it left rest). Of bands: the share of the time in each. Of any other value: mean, spread
 * (the standard deviation), least and greatest of what can be used.
 *
 * `all` false: the main ones alone, which costs less. An array of rgp_score, freed with its texts by g_array_unref().
 * Empty with fewer than 30 rows. */
GArray *rgp_scores_of(rgp_history *history, uint64_t from_us, uint64_t to_us, bool all);

#endif
