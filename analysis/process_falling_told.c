/* Numbers that are told of a process that falls: gain, balance, lag and dead time with their intervals, and what is
 * left. */
#include "process_falling.h"

#include "noise.h"

#include <gsl/gsl_cdf.h>

#include <math.h>
#include <stdlib.h>

#define NOTHING 1e-6 /* of a tick */

static rgp_estimate estimate(double value, double error)
{
    const double half = gsl_cdf_ugaussian_Pinv(0.975) * error;
    return (rgp_estimate){value, value - half, value + half};
}

void process_falling_numbers(const double *shape, const double *linear, const double *error, double tick,
                             rgp_process *to)
{
    const rgp_estimate lag = estimate(shape[0], error[FALLING_LAG]);
    to->gain = estimate(linear[OF_DRIVEN], error[FALLING_GAIN]);
    to->lag = (rgp_estimate){exp(lag.value), exp(lag.low), exp(lag.high)};
    to->dead = estimate(shape[1], hypot(error[FALLING_DEAD], tick / 2.0));
    to->dead.low = fmax(0.0, to->dead.low);
    to->dead.value = to->dead.value > NOTHING * tick ? to->dead.value : 0.0; /* a simplex never gets to 0 */
    to->rest = linear[OF_ONE];
}

static void put_noise(const falling *f, rgp_process *to)
{
    double low = INFINITY, high = -INFINITY;
    g_autofree double *left = g_new(double, f->d->count + 1);
    size_t n = 0;
    for (size_t k = 0; k < f->d->count; k++) {
        left[n] = f->d->measured[k] - to->fitted[k];
        n += isnan(left[n]) ? 0 : 1;
        low = fmin(low, to->fitted[k]);
        high = fmax(high, to->fitted[k]);
    }
    to->excursion = high - low;
    to->left = rgp_noise_coloured(left, n);
    to->noise = fmax(rgp_noise_of(left, n).sigma, rgp_noise_of_readings(f->d->measured, f->d->count).step / sqrt(12.0));
}

/* Rows that were left out as pushed were not fitted either. */
static void leave_gaps(const falling *f, double *fitted)
{
    for (size_t k = 0; k < f->d->count; k++) {
        fitted[k] = isnan(f->d->measured[k]) ? (double)NAN : fitted[k];
    }
}

typedef struct moved {
    double whole, left; /* squares that the beginning of a piece alone leaves, and that all of it does */
} moved;

static int by_whole(const void *a, const void *b)
{
    const double one = ((const moved *)a)->whole, other = ((const moved *)b)->whole;
    return (one < other) - (one > other);
}

/* Percent of what the beginnings and the balance do not explain, by the rows that the numbers are from, of those pieces
 * that move most and hold half of it: where it only stands there is nothing but noise. */
static double fit_of(falling *f, double lag, const double *fitted)
{
    const size_t first = f->from / f->piece, pieces = f->to / f->piece - first;
    g_autofree double *column = g_new(double, f->d->count + 1);
    g_autofree moved *piece = g_new0(moved, pieces + 1);
    moved all = {0.0, 0.0};
    for (size_t k = 0; k < f->d->count; k++) {
        column[k] = f->d->measured[k] - f->linear[OF_ONE];
    }
    process_falling_project(f, lag, column);
    for (size_t k = first * f->piece; k < (first + pieces) * f->piece; k++) {
        const double over = f->d->measured[k] - fitted[k];
        piece[k / f->piece - first].whole += column[k] * column[k];
        piece[k / f->piece - first].left += isnan(over) ? 0.0 : over * over;
    }
    qsort(piece, pieces, sizeof *piece, by_whole);
    double whole = 0.0;
    for (size_t i = 0; i < pieces; i++) {
        whole += piece[i].whole;
    }
    for (size_t i = 0; i < pieces && all.whole < whole / 2.0; i++) {
        all.whole += piece[i].whole;
        all.left += piece[i].left;
    }
    return 100.0 * (1.0 - all.left / fmax(all.whole, 1e-300));
}

void process_falling_tell(falling *f, const double *shape, const double *error, rgp_process *to)
{
    g_autofree own *beginning = process_falling_beginnings(f, exp(shape[0]));
    g_autofree double *fitted = g_new0(double, f->d->count + 1);
    process_falling_fitted(f, shape, beginning, fitted);
    const double fit = fit_of(f, exp(shape[0]), fitted);
    leave_gaps(f, fitted);
    *to = (rgp_process){.kind = RGP_PROCESS_FALLING, .fitted = g_steal_pointer(&fitted)};
    to->weight[RGP_PROCESS_FALLING] = 1.0;
    to->fit = fit;
    process_falling_numbers(shape, f->linear, error, f->d->tick, to);
    put_noise(f, to);
}
