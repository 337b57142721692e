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
} rhythm;

static rhythm rhythm_of(const diagnosed *d, size_t from)
{
    const size_t count = d->rows - from;
    double at[CROSSINGS], apart[CROSSINGS];
    g_autofree double *of = autocorrelation(d->error + from, count, d->noise);
    const size_t n = crossings_of(of, 3 * count / 4, at);
    rhythm r = {.turn = n > 1 ? extreme(of, (size_t)at[0], (size_t)at[1], -1.0) : 0.0};
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

/* By the second half, which a step at the beginning does not move; by all of it where that has no swing to speak of. */
static void find_period(diagnosed *d)
{
    rgp_signs *s = &d->to->sign;
    const rhythm all = rhythm_of(d, 0), half = rhythm_of(d, d->rows / 2);
    s->whole_turn = all.turn;
    s->whole_swing = all.swing;
    s->turn = half.turn;
    s->swing = half.swing;
    s->regular = half.regular;
    d->period_rows = half.period > 0.0 && d->to->swing > NEXT_TO_NOTHING * d->to->band ? half.period : all.period;
}

/* The mean height of the k-th harmonic in pieces of so many periods, from `from` on; 0: there is none. */
static double height_in_pieces(const double *value, size_t from, size_t count, double periods, double period, double k)
{
    const size_t piece = (size_t)fmax(periods * period, 1.0);
    const double turn = 2.0 * G_PI * k / period, cosine = cos(turn), sine = sin(turn); /* of a row */
    double sum = 0.0;
    size_t pieces = 0;
    for (size_t begin = from; begin + piece <= count; begin += piece, pieces++) {
        const double mean = gsl_stats_mean(value + begin, 1, piece);
        double a = 0.0, b = 0.0, c = 1.0, s = 0.0;
        for (size_t i = 0; i < piece; i++) {
            const double was = c;
            a += (value[begin + i] - mean) * c;
            b += (value[begin + i] - mean) * s;
            c = c * cosine - s * sine;
            s = s * cosine + was * sine;
        }
        sum += 2.0 * hypot(a, b) / (double)piece;
    }
    return pieces > 0 ? sum / (double)pieces : 0.0;
}

/* A period that is not quite right does no harm in three of them. */
double diagnosis_harmonic(const double *value, size_t from, size_t count, double period, double k)
{
    return height_in_pieces(value, from, count, 3.0, period, k);
}

/* From the third quarter to the last, by the error's heights there. A loop's own swing that nothing stops grows or
 * shrinks. */
static double steadiness(const diagnosed *d)
{
    const size_t n = d->rows, half = n / 2, later = n - n / 4;
    const double was = height_in_pieces(d->error, half, later, 1.0, d->period_rows, 1.0),
                 is = height_in_pieces(d->error, later, n, 1.0, d->period_rows, 1.0),
                 periods = (double)(later - half) / d->period_rows;
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

/* About its mean, so that sums of products lose nothing. To be freed. */
static double *about_mean(const double *value, size_t count)
{
    double *to = g_new0(double, count + 1);
    const double mean = gsl_stats_mean(value, 1, count);
    for (size_t i = 0; i < count; i++) {
        to[i] = value[i] - mean;
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
    const size_t n = d->rows - from, far = MIN((size_t)(d->period_rows / 2.0), n / 2),
                 stride = MAX((size_t)1, far / 24);
    g_autofree double *output = about_mean(d->output + from, n), *measured = about_mean(d->measured + from, n);
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
    const double y = diagnosis_harmonic(d->measured, from, d->rows, d->period_rows, 1.0),
                 u = diagnosis_harmonic(d->output, from, d->rows, d->period_rows, 1.0);
    s->third_of_y = y > d->noise ? diagnosis_harmonic(d->measured, from, d->rows, d->period_rows, 3.0) / y : 0.0;
    s->third_of_u = u > 0.0 ? diagnosis_harmonic(d->output, from, d->rows, d->period_rows, 3.0) / u : 0.0;
    d->to->led = diagnosis_harmonic(d->target, from, d->rows, d->period_rows, 1.0);
    s->steady = steadiness(d);
    find_rests(d, from);
    find_odd(d, from);
}
