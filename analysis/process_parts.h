/* Shared by the files that fit a process. */
#ifndef ANALYSIS_PROCESS_PARTS_H
#define ANALYSIS_PROCESS_PARTS_H

#include "process.h"

#include <glib.h>
#include <gsl/gsl_matrix.h>

#define PROCESS_LINEAR 3u /* gain, offset, beginning or slope; then a size for each load, and two of a wave */
#define PROCESS_LOADS  RGP_PROCESS_LOADS

/* A shape: logarithms of the lags, and seconds: the dead time, and when each load has come; the logarithm of the period
 * of a wave. */
enum { SHAPE_LAG, SHAPE_DEAD, SHAPE_SECOND, SHAPE_LOAD, SHAPE_WAVE = SHAPE_LOAD + PROCESS_LOADS, PROCESS_SHAPES };
enum { PROCESS_EXPLAINED = PROCESS_LINEAR + PROCESS_LOADS + 2u }; /* linear parts at most */

/* The care of a search: points of the grid, and when the simplex ends. */
typedef struct search {
    size_t lags, deads;
    int turns;
    double size;
    int kinds;         /* of models, from the first on */
    bool from_simpler; /* one with a lag more begins where the one without it ended, not at a grid */
} search;

typedef struct fitting {
    const rgp_process_data *data;
    const search *how;
    rgp_process_kind kind;
    double *answer; /* room for one */
    size_t usable;
    size_t loads;                            /* that have come and stayed, and add to what is driven */
    double load_at[PROCESS_LOADS];           /* seconds: around when */
    double most_load;                        /* none is greater: how far what was driven went */
    double way;                              /* the sign of the gain; 0: it may have either */
    double period;                           /* seconds: about that of a wave from outside; 0: there is none */
    double *ones;                            /* a load of 1 from the first row on */
    double *to_one, *to_load[PROCESS_LOADS]; /* room for answers to that and to each load, */
    double *begun, *wave[2];                 /* for a beginning, and for a cosine and a sine */
    /* Of the last shape that was tried: the normal equations without loads, the greatest answer, the linear parts. */
    double sums[PROCESS_LINEAR][PROCESS_LINEAR + 1u], greatest;
    double linear[PROCESS_EXPLAINED];
} fitting;

static inline size_t process_linear(const fitting *f)
{
    return PROCESS_LINEAR + f->loads + (f->period > 0.0 ? 2u : 0u);
}

/* Of a shape, with a gain of 1. */
rgp_plant process_plant(const fitting *f, const double *shape);

/* A fit of that data with room for its answers, and nothing else. */
fitting process_room(const rgp_process_data *data);
void process_room_free(fitting *f);

/* The answers of a shape, with a gain of 1: to what was driven, and to each load; and the share of a beginning that is
 * left, which fades by the lag (of an integral, the time since). */
void process_answers(fitting *f, const double *shape);

/* The squares that are left with the best linear parts for this shape; PROCESS_NEVER: it cannot be. */
#define PROCESS_NEVER 1e300
double process_squares(fitting *f, const double *shape);

/* All of it at that shape, with the linear parts as they are; by row. */
void process_fitted(fitting *f, const double *shape, double *to);

/* A linear part of one, by row, by the shape whose answers were made last. */
static inline const double *process_column(const fitting *f, size_t i)
{
    const double *const plain[PROCESS_LINEAR] = {f->answer, f->ones, f->begun};
    return i < PROCESS_LINEAR              ? plain[i]
           : i < PROCESS_LINEAR + f->loads ? f->to_load[i - PROCESS_LINEAR]
                                           : f->wave[i - PROCESS_LINEAR - f->loads];
}

/* Loads and a wave: what they make of row k. */
static inline double process_of_besides(const fitting *f, size_t k)
{
    double sum = 0.0;
    for (size_t i = 0; i < f->loads; i++) {
        sum += f->linear[PROCESS_LINEAR + i] * f->to_load[i][k];
    }
    if (f->period > 0.0) {
        const double *size = f->linear + PROCESS_LINEAR + f->loads;
        sum += size[0] * f->wave[0][k] + size[1] * f->wave[1][k];
    }
    return sum;
}

/* The parts of a shape that there are, in order. */
size_t process_shapes(const fitting *f);
size_t process_shape(const fitting *f, size_t i);

enum {
    OF_GAIN,
    OF_SUM,
    OF_LAG,
    OF_DEAD,
    OF_SIZE,
    OF_TIME = OF_SIZE + PROCESS_LOADS,
    ESTIMATES = OF_TIME + PROCESS_LOADS
};

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

/* The size of its i-th load, units driven. */
static inline double process_size(const model *m, size_t i)
{
    return m->f.linear[PROCESS_LINEAR + i] / m->f.linear[0];
}

enum { PROCESS_AVERAGED = RGP_PROCESS_FALLING }; /* at most: the kinds before it are weighed against one another */

/* With loads an integral behind a lag is looked at, too. */
extern const search process_careful, process_careful_loaded;

/* Rows in blocks, at most so many; *driven and *measured are to be freed. */
rgp_process_data process_shortened(const rgp_process_data *d, size_t most, double **driven, double **measured);

/* Enough rows that are usable, and something was driven. */
bool process_is_enough(const rgp_process_data *d, size_t *usable);

/* One of each kind that is looked at, with the load and the care of `f`, whose `usable` is found; false, and nothing is
 * to be cleared: there is too little to fit anything to. */
bool process_fit_all(fitting *f, model m[PROCESS_AVERAGED]);
void process_clear_all(model m[PROCESS_AVERAGED]);

/* The i-th shape of the grid; false behind the last. */
bool process_grid(const fitting *f, size_t i, double *shape);

/* Normal equations: a row for each column, and what is to be explained behind them. */
typedef double equations[PROCESS_EXPLAINED][PROCESS_EXPLAINED + 1u];

/* Of so many columns; false where they are fewer. */
bool process_solve(equations m, size_t columns, double *to);

/* The best shape on a grid; around one; its squares. */
double process_search_grid(fitting *f, double *shape);
double process_search_around(fitting *f, double *shape);

/* Of all of them, and whether it goes on and on: that is likelier, or the end of a lag is not in sight. */
bool process_weigh(const model m[PROCESS_AVERAGED], rgp_process *to);

/* The likeliest of those that do, or of those that do not. */
const model *process_likeliest(const model m[PROCESS_AVERAGED], bool goes_on, const rgp_process *p);

/* The lag besides the first one, 0 where there is none; a dead time of next to nothing is none. */
double process_second(const model *m);
double process_dead(double found, double tick);

/* The likeliest model at a glance, with loads about when the fit has them; `careful`: its shape, too. False, and
 * nothing has changed: there is too little to fit anything to. */
bool process_glance_at(fitting *f, double way, bool careful, rgp_process *to);

/* Squares around the mean. */
double process_variance(const rgp_process_data *d, size_t usable);

/* Of a fitted model: its criterion (AICc), and what its doubts need; then its components, whose weights sum up to 1. */
void process_criterion(model *m);
void process_doubts(model *m);

/* The standard error of its gain if what it leaves were white noise; INFINITY: the gain is not to be told. */
double process_gain_error(const model *m);
void process_model_clear(model *m);

/* True when what the model leaves over still follows what was driven (Ljung 1999): *later seconds behind it. `memory`:
 * seconds, the sum of its lags and dead time. */
bool process_left_follows(const rgp_process_data *data, const double *fitted, double memory, double *later);

/* Fits a process that runs away from where it balances, all but its spikes; false when there is nothing to fit it to.
 * Its `fit` is that of what the beginnings of the pieces leave. */
bool process_fit_falling(const rgp_process_data *data, rgp_process *to);

/* Gains for what is driven above and below the middle of its range, of a fitted model; the share of its squares that
 * the two leave, 1 where they are one. */
double process_sides(const model *m, rgp_process *to);

/* Of a mixture of components. */
rgp_estimate process_estimate(const GArray *component, int which);

#endif
