/* A loop that swings: its period by the autocorrelation of the error, and the waves by which causes can be told. */
#include "diagnosis_parts.h"

#include <gsl/gsl_fft_halfcomplex.h>
#include <gsl/gsl_fft_real.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>
#include <string.h>

#define NEXT_TO_NOTHING 0.5 /* of the band */
#define CROSSINGS       11u /* of the autocorrelation that are looked at */
#define REGULAR_MOST    3.0
#define LEAST_SWING     0.1  /* of the autocorrelation: less is none */
#define STILL           0.12 /* of the greatest movement in a twelfth of a period: it stands still */
#define PARTS           12.0 /* of a period */
#define LAGS            24u  /* in half a period, at which output and measured are compared */
#define FINER           2u   /* rows in each of them */
#define STEADIEST       1e-3 /* in a period: what does not swing is not steady */

/* Of values about their mean, by lag; made 1 at lag 0 without the noise that no two values share. */
static double *autocorrelation(const double *value, size_t count, double noise)
{
    size_t size = 2;
    while (size < 2 * count) {
        size *= 2;
    }
    double *work = g_new0(double, size);
    const double mean = gsl_stats_mean(value, 1, count);
    for (size_t i = 0; i < count; i++) {
        work[i] = value[i] - mean;
    }
    gsl_fft_real_radix2_transform(work, 1, size);
    work[0] *= work[0];
    work[size / 2] *= work[size / 2];
    for (size_t i = 1; i < size / 2; i++) {
        work[i] = work[i] * work[i] + work[size - i] * work[size - i];
        work[size - i] = 0.0;
    }
    gsl_fft_halfcomplex_radix2_inverse(work, 1, size);
    const double whole = fmax(work[0] - (double)count * noise * noise, 0.25 * work[0]);
    for (size_t i = 0; i < count; i++) {
        work[i] = whole > 0.0 ? work[i] / whole * (double)count / (double)(count - i) : 0.0;
    }
    return work;
}

/* The places at which it crosses 0, in rows, up to CROSSINGS. */
static size_t crossings_of(const double *of, size_t count, double *at)
{
    size_t n = 0;
    for (size_t i = 2; i < count && n < CROSSINGS; i++) {
        if ((of[i - 1] > 0.0) != (of[i] > 0.0)) {
            const double here = (double)(i - 1) + of[i - 1] / (of[i - 1] - of[i]);
            if (n == 0 || here - at[n - 1] > 1.0) {
                at[n++] = here;
            }
        }
    }
    return n;
}

static double extreme(const double *of, size_t from, size_t to, double sign)
{
    double most = -INFINITY;
    for (size_t i = from; i < to; i++) {
        most = fmax(most, sign * of[i]);
    }
    return isfinite(most) ? sign * most : 0.0;
}

/* Of the stretch from a row on. */
typedef struct rhythm {
    double turn, swing, regular, period; /* `period` in rows, 0: none */
    double first;                        /* rows: twice the way from the first zero crossing to the second */
} rhythm;

static rhythm rhythm_of(const diagnosed *d, const double *error, size_t from)
{
    const size_t count = d->rows - from;
    double at[CROSSINGS], apart[CROSSINGS];
    g_autofree double *of = autocorrelation(error + from, count, d->noise);
    const size_t n = crossings_of(of, 3 * count / 4, at);
    if (n < 2) {
        return (rhythm){0};
    }
    rhythm r = {.turn = extreme(of, (size_t)at[0], (size_t)at[1], -1.0), .first = 2.0 * (at[1] - at[0])};
    if (n < 3) {
        return r;
    }
    for (size_t i = 1; i < n; i++) {
        apart[i - 1] = at[i] - at[i - 1];
    }
    const double mean = gsl_stats_mean(apart, 1, n - 1), spread = n > 3 ? gsl_stats_sd(apart, 1, n - 1) : mean;
    r.swing = extreme(of, (size_t)at[1], (size_t)at[2] + 1, 1.0);
    r.regular = fmin(REGULAR_MOST, mean / (3.0 * fmax(spread, 1e-3 * mean)));
    r.period = r.swing > LEAST_SWING ? 2.0 * mean : 0.0;
    return r;
}

/* Of the errors, or where steps of the setpoint make their rhythm, of what is beside those; NULL: there are none. */
static rhythm own_rhythm(const diagnosed *d, const double *besides, size_t from, bool *is_stepped)
{
    const rhythm all = rhythm_of(d, d->error, from);
    const bool steps = besides && diagnosis_is_stepped(d, from, all.first);
    *is_stepped |= steps;
    return steps ? rhythm_of(d, besides, from) : all;
}

/* By the second half, which a step at the beginning does not move; by all of it where that has no swing to speak of.
 * The last quarter tells how far it swings. */
static void find_period(diagnosed *d)
{
    rgp_signs *s = &d->to->sign;
    const size_t quarter = d->rows / 4;
    g_autofree double *besides = diagnosis_steps(d, 0) > 1 ? diagnosis_besides_steps(d) : NULL;
    bool is_stepped = false;
    const rhythm all = own_rhythm(d, besides, 0, &is_stepped), half = own_rhythm(d, besides, d->rows / 2, &is_stepped);
    if (is_stepped) {
        d->to->swing = fmin(d->to->swing, sqrt(2.0) * gsl_stats_sd(besides + d->rows - quarter, 1, quarter));
    }
    s->whole_turn = all.turn;
    s->whole_swing = all.swing;
    s->turn = half.turn;
    s->swing = half.swing;
    s->regular = half.regular;
    d->period_rows = half.period > 0.0 && d->to->swing > NEXT_TO_NOTHING * d->to->band ? half.period : all.period;
}

/* Of the second half; a period that is not quite right does no harm in three of them. */
static double harmonic(const diagnosed *d, const double *value, double k)
{
    return diagnosis_height(value, d->rows / 2, d->rows, 3.0, d->period_rows, k);
}

/* From the third quarter to the last, by the error's heights there, or of a slower swing from the last period but one
 * to the last. A loop's own swing that nothing stops grows or shrinks. */
static double steadiness(const diagnosed *d)
{
    const size_t n = d->rows, period = (size_t)d->period_rows, each = MIN(MAX(n / 4, period), n / 2);
    const double was = diagnosis_height(d->error, n - 2 * each, n - each, 1.0, d->period_rows, 1.0),
                 is = diagnosis_height(d->error, n - each, n, 1.0, d->period_rows, 1.0),
                 periods = (double)each / d->period_rows;
    return was > 0.0 && is > 0.0 ? fmin(log(fmax(fabs(log(is / was)) / periods, STEADIEST)), 0.0) : 0.0;
}

/* By how much it moves in a twelfth of a period: the share in which that is next to nothing, and the greatest. */
static void find_rests(diagnosed *d, size_t from)
{
    rgp_signs *s = &d->to->sign;
    const size_t apart = (size_t)fmax(1.0, d->period_rows / PARTS), n = d->rows;
    double most = 0.0, low = INFINITY, high = -INFINITY;
    size_t still = 0, all = 0;
    for (size_t i = from + apart; i < n; i++) {
        most = fmax(most, fabs(d->measured[i] - d->measured[i - apart]));
        low = fmin(low, d->measured[i]);
        high = fmax(high, d->measured[i]);
    }
    for (size_t i = from + apart; i < n; i++, all++) {
        still += fabs(d->measured[i] - d->measured[i - apart]) < fmax(STILL * most, 2.5 * d->noise);
    }
    s->rests = all > 0 ? (double)still / (double)all : 0.0;
    s->jumps = high > low ? most / (high - low) : 0.0;
}

/* Means of so many rows each, about the mean of all, so that sums of products lose nothing. To be freed. */
static double *means_about_mean(const double *value, size_t count, size_t each)
{
    double *to = g_new0(double, count / each + 1);
    const double mean = gsl_stats_mean(value, 1, count);
    for (size_t i = 0; i < count / each; i++) {
        to[i] = (each > 1 ? gsl_stats_mean(value + i * each, 1, each) : value[i]) - mean;
    }
    return to;
}

/* Covariance of values that are about a mean which is near their own. */
static double product(const double *a, const double *b, size_t count)
{
    double sum = 0.0, of_a = 0.0, of_b = 0.0;
    for (size_t i = 0; i < count; i++) {
        sum += a[i] * b[i];
        of_a += a[i];
        of_b += b[i];
    }
    return count > 1 ? (sum - of_a * of_b / (double)count) / (double)(count - 1) : 0.0;
}

/* Of what the second half of the stretch has: 1 where output and measured go together as a triangle and a square do. */
static void find_odd(diagnosed *d, size_t from)
{
    const size_t rows = d->rows - from, half = (size_t)(d->period_rows / 2.0),
                 each = MAX((size_t)1, half / (LAGS * FINER)), n = rows / each, far = MIN(half, rows / 2) / each,
                 stride = MAX((size_t)1, far / LAGS);
    g_autofree double *output = means_about_mean(d->output + from, rows, each),
                      *measured = means_about_mean(d->measured + from, rows, each);
    double odd = 0.0, all = 0.0;
    for (size_t k = stride; k <= far; k += stride) {
        const double later = product(output, measured + k, n - k), earlier = product(output + k, measured, n - k);
        odd += (later - earlier) * (later - earlier) - (later + earlier) * (later + earlier);
        all += 2.0 * (later * later + earlier * earlier);
    }
    d->to->sign.odd = all > 0.0 ? odd / all : 0.0;
}

void diagnosis_swing(diagnosed *d)
{
    rgp_signs *s = &d->to->sign;
    const size_t from = d->rows / 2;
    const rgp_pid_gains *g = &d->pid->gain;
    find_period(d);
    d->to->period = d->period_rows > 0.0 ? d->period_rows * d->step : (double)NAN;
    if (d->period_rows <= 0.0) {
        return;
    }
    const double w = 2.0 * G_PI / d->to->period, kp = fmax((double)g->kp, 1e-12);
    s->slow_swing = log(d->period_rows);
    s->lag_of_i = atan((double)g->ki / (kp * w)) / (G_PI / 2.0);
    s->lead_of_d = atan((double)g->kd * w / kp) / (G_PI / 2.0);
    const double y = harmonic(d, d->measured, 1.0), u = harmonic(d, d->output, 1.0);
    s->third_of_y = y > d->noise ? harmonic(d, d->measured, 3.0) / y : 0.0;
    s->third_of_u = u > 0.0 ? harmonic(d, d->output, 3.0) / u : 0.0;
    d->to->led = diagnosis_steps(d, 0) > 1 ? 0.0 : harmonic(d, d->target, 1.0);
    s->steady = steadiness(d);
    find_rests(d, from);
    find_odd(d, from);
}
