/* Kinds of runs side by side: each figure of every run, and whether a kind differs from the first one by more than runs
 * of a kind differ among themselves. The unit of evidence is a run, never a reading. */
#ifndef ANALYSIS_COMPARISON_H
#define ANALYSIS_COMPARISON_H

#include "permutation.h"
#include "scores.h"

#define RGP_COMPARISON_CHANCE 0.05 /* of a difference that is one, among all questions together */

/* Runs of one rig with one set of parameters. */
typedef struct rgp_run_kind {
    char *name;
    GPtrArray *run; /* of arrays of rgp_score */
} rgp_run_kind;

/* One kind beside the first one. */
typedef struct rgp_against {
    rgp_difference difference; /* of the logarithms where `share`; of ranks where a run never came there */
    double chance;             /* among all questions together; NAN: it was none */
    bool differs;              /* it is small enough */
} rgp_against;

typedef struct rgp_compared {
    const char *name, *unit; /* of the first kind's figure */
    rgp_score_taste taste;
    bool main;
    bool share;           /* a difference is a share of the first kind's figure: all are above 0 */
    bool ranked;          /* some run never came there, which ranks last */
    bool same;            /* all runs of all kinds have the same: no question */
    double **value;       /* by kind, then by run; NAN: never */
    rgp_against *against; /* by kind; of the first nothing */
} rgp_compared;

typedef struct rgp_comparison {
    const rgp_run_kind *kind;
    uint32_t kinds;
    bool paired;      /* run i of each kind had the same seed */
    GArray *compared; /* of rgp_compared, in the order of the first kind */
    GPtrArray *alone; /* names of figures that only some kinds have */
    uint32_t questions;
} rgp_comparison;

/* `wanted`: parts of names of figures; NULL: the main ones, or with `all` all. The kinds must outlive it, and have as
 * many runs each where `paired`. */
rgp_comparison *rgp_comparison_of(const rgp_run_kind *kind, uint32_t kinds, bool paired, char **wanted, bool all);
void rgp_comparison_free(rgp_comparison *comparison);

/* The mean of a kind's values that are no NAN, and their standard deviation (NAN: fewer than two). */
double rgp_compared_mean(const rgp_comparison *c, const rgp_compared *is, uint32_t kind);
double rgp_compared_spread(const rgp_comparison *c, const rgp_compared *is, uint32_t kind);

/* The runs of each kind that are needed before any of so many questions can find a difference. */
uint32_t rgp_comparison_runs_needed(const rgp_comparison *comparison);

#endif
