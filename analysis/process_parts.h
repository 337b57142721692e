/* Shared by the files that fit a process. */
#ifndef ANALYSIS_PROCESS_PARTS_H
#define ANALYSIS_PROCESS_PARTS_H

#include "process.h"

#include <glib.h>
#include <gsl/gsl_matrix.h>

#define PROCESS_LINEAR 3u /* gain, offset, beginning or slope */
#define PROCESS_SHAPES 3u /* log of the lag, dead time, log of the second lag */

/* The care of a search: points of the grid, and when the simplex ends. */
typedef struct search {
    int lags, deads, turns;
    double size;
} search;

typedef struct fitting {
    const rgp_process_data *data;
    const search *how;
    rgp_process_kind kind;
    double *answer; /* room for one */
    size_t usable;
    double linear[PROCESS_LINEAR]; /* of the last shape that was tried */
} fitting;

/* Of a shape, with a gain of 1. */
rgp_plant process_plant(const fitting *f, const double *shape);

/* The squares that are left with the best gain, offset and beginning for this shape. */
double process_squares(fitting *f, const double *shape);

/* The share of a beginning that is left in row k: it fades by the lag; of an integral the time since. */
double process_beginning(const fitting *f, double lag, size_t k);

size_t process_shapes(rgp_process_kind kind);

enum { OF_GAIN, OF_SUM, OF_LAG, OF_DEAD, ESTIMATES };

/* A value with its standard error, of one model under one kind of noise. */
typedef struct component {
    double value[ESTIMATES], error[ESTIMATES]; /* of the lag its logarithm */
    double weight, freedom, load;
} component;

/* Rows of residual and derivatives, averaged to few. */
typedef struct linearised {
    size_t rows, parts;
    double tick; /* of a row */
    double ticks_a_row;
    gsl_matrix *j; /* rows by parts: gain, offset, beginning, then the shape */
    gsl_vector *residual;
} linearised;

typedef struct model {
    fitting f;
    double shape[PROCESS_SHAPES];
    double squares, criterion;
    linearised l;
    GArray *component; /* as long as nothing is said of doubts, none */
} model;

/* Of a fitted model: its criterion (AICc), and what its doubts need; then its components, whose weights sum up to 1. */
void process_criterion(model *m);
void process_doubts(model *m);
void process_model_clear(model *m);

/* True when what the model leaves over still follows what was driven (Ljung 1999): *later seconds behind it. `memory`:
 * seconds, the sum of its lags and dead time. */
bool process_left_follows(const rgp_process_data *data, const double *fitted, double memory, double *later);

/* Fits a process that runs away from where it balances, all but its spikes; false when there is nothing to fit it to.
 * Its `fit` is that of what the beginnings of the pieces leave. */
bool process_fit_falling(const rgp_process_data *data, rgp_process *to);

/* Gains for what is driven above and below the middle of its range, of a fitted model. */
void process_sides(const model *m, rgp_process *to);

/* Of a mixture of components. */
rgp_estimate process_estimate(const GArray *component, int which);

#endif
