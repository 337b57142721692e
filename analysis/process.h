/* Models of a process, fitted to what was driven and what was measured: a gain behind lags and a dead time, or an
 * integral behind a dead time. What is driven is held over a tick, and the dead time need be no whole number of ticks.
 *
 * Fitted by the least squares of the output error: gain, offset and beginning are linear, and taken out by projection
 * (Golub and Pereyra 1973); lags and dead time by a grid, then by a simplex (Nelder and Mead 1965). The intervals are
 * those of the plain estimate under noise that hangs together: white, first-order, and a load that walks through the
 * lag, mixed by their restricted likelihood (Patterson and Thompson 1971). Lag and two lags are averaged by their
 * weight (AICc: Hurvich and Tsai 1989; Buckland, Burnham and Augustin 1997). */
#ifndef ANALYSIS_PROCESS_H
#define ANALYSIS_PROCESS_H

#include "noise.h"
#include "plant.h"

#include <glib.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/* A recorded stretch, evenly spaced; a measured value that is not to be trusted is NAN. */
typedef struct rgp_process_data {
    const double *driven, *measured;
    size_t count;
    double tick; /* seconds */
} rgp_process_data;

typedef struct rgp_estimate {
    double value, low, high; /* 19 of 20 */
} rgp_estimate;

/* As if so much more had been driven from then on. */
typedef struct rgp_process_load {
    rgp_estimate at;   /* seconds */
    rgp_estimate size; /* units driven */
} rgp_process_load;

#define RGP_PROCESS_LOADS 3u /* at most */

typedef struct rgp_process {
    rgp_process_kind kind;  /* LAG: with a second lag or without, averaged */
    bool begins;            /* an integral is how it begins: likelier a lag whose end is not in sight */
    rgp_estimate gain;      /* measured units for a unit driven; of an integral those a second */
    rgp_estimate sum;       /* seconds: all lags and the dead time */
    rgp_estimate lag, dead; /* seconds; of two lags the greater one */
    double second;          /* seconds: the lesser lag, where two are likelier; else 0 */
    double weight[RGP_PROCESS_KINDS];
    double fit;        /* percent of the variance that the best one leaves no residual of */
    double up, down;   /* gains above and below the middle of what was driven, where they are apart; else 0 */
    double rest;       /* measured units: where it comes to when nothing is driven; NAN of an integral */
    double noise;      /* measured units: the standard deviation of one reading's noise */
    rgp_coloured left; /* measured units: what the model leaves over from row to row, without what rounding makes */
    double step;       /* measured units: of readings so coarse that rounding is most of their noise; else 0 */
    size_t spikes;     /* readings that were left out, since they lie far from those around them */
    double excursion;  /* measured units: how far the fitted answer moved */
    bool misses;       /* what it leaves over still follows what was driven, `later` seconds behind it */
    double later;
    bool may_fall; /* it misses something, and one that falls without its loop would leave far less, but is not known */
    double load;   /* how likely it is that a tenth of the noise, or more, is a load which walks */
    double wave, height; /* seconds, measured units: period and height of a wave from outside; 0: there is none */
    size_t loads;        /* that came in between and stayed */
    rgp_process_load came[RGP_PROCESS_LOADS];
    double *fitted; /* by row, of the best one; NULL: nothing could be fitted */
} rgp_process;

/* False when there is too little to fit anything to: fewer than 40 usable rows, or nothing was driven. */
bool rgp_process_fit(const rgp_process_data *data, rgp_process *to);

/* The likeliest model alone, for whoever wants to know how a mechanism answers and no more: its `kind`, `gain`, `lag`,
 * `second`, `dead` and `fit`; all else is 0, and nothing is to be cleared. Of two models that explain it about as well,
 * as a swing alone is by both signs, it is the one whose gain has the sign of `way` (0: either). The gain has its
 * interval where it is not of that sign, which takes longer, and a rough one beside a wave. Of at most 2000 rows,
 * without spikes. */
bool rgp_process_glance(const rgp_process_data *data, double way, rgp_process *to);

/* The model that such a glance has found, again with loads that came in between and stayed, and with a wave from
 * outside of about that period (seconds; 0: with none). `noise`: measured units, of a reading. False, and nothing has
 * changed: that explains little more. */
bool rgp_process_glance_besides(const rgp_process_data *data, double way, double noise, double period, rgp_process *to);

/* A process that runs away from where it balances, and that a loop held up all the time, at a glance: its `kind`,
 * `gain`, `lag`, `dead` and `rest`, with intervals, by the rows in which it moves most. False: it is not known. What
 * does not fall may look as if it did: whoever asks should know that nothing else explains it. */
bool rgp_process_glance_falling(const rgp_process_data *data, rgp_process *to);

/* The same as rgp_process_fit() of a stretch in which a loop of that proportional gain was in charge all the time
 * (below 0: it drives down to raise what is measured; 0: none was). Where that leaves more than noise, loads that came
 * meanwhile and stayed are found with it. Where no other model is one to build on it may be a
 * process that runs away from where it balances without the loop: its second derivative is the distance from there over
 * the square of `lag`. `rest` is that place, which is shifted by -`gain` for a unit driven; `fit` is of what its
 * beginnings alone, one in each lag and a half, do not explain. */
bool rgp_process_fit_held(const rgp_process_data *data, double gain, rgp_process *to);
void rgp_process_clear(rgp_process *process);

/* Why nothing is to be built on it, as texts (char *), to be freed; none: something is. `step`: seconds from one step
 * of the loop to the next. */
GPtrArray *rgp_process_doubts(const rgp_process *process, double step);

/* Its gain is known to a third, and its lag, if it has one, to a half of its logarithm. */
bool rgp_process_is_known(const rgp_process *process);

/* The answer of a process to what is driven, from rest at 0: `to` has room for the data's rows. */
void rgp_process_answer(const rgp_plant *plant, const rgp_process_data *data, double *to);

#endif
