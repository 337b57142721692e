/* The signs of a stretch, and the chances of the causes by them. */
#include "diagnosis_parts.h"

#include "spikes.h"

#include <gsl/gsl_statistics_double.h>

#include <math.h>
#include <string.h>

#define LEAST_ROWS    40u
#define MOST_ROWS     24000u
#define LEAST_SHARE   0.5 /* of the rows that are usable */
#define BAND_NOISES   3.0
#define BAND_STEP     0.05 /* of how far the target went */
#define BAND_PEAK     0.1
#define PEAK          0.99 /* of all errors are less */
#define QUARTERS      4u
#define END           5u   /* a fifth of the stretch is its end */
#define MOSTLY_LEFT   0.9  /* of a quarter's way that is left in the next one: it may as well go on straight */
#define STRETCHES     10.0 /* the way that a beginning may still have before it */
#define ON_ITS_WAY    0.95 /* of the time */
#define AT_LIMIT      1e-3 /* of the travel */
#define SHORT_MOST    0.03 /* of it, beyond which nobody would call it a limit */
#define OFTEN         0.4  /* of the last quarter */
#define SELDOM        0.1  /* of the time at a limit, twice: at the other one */
#define TO_AND_FRO    2u   /* changes of side: once is a new setpoint and its overshoot, or two pushes */
#define LASTING       0.01 /* of the stretch */
#define LEAST_LASTING ((size_t)3)
#define LITTLE        1e-12

/* ---- signs of no swing ------------------------------------------------------------------------------ */

double diagnosis_spread(const double *value, size_t count)
{
    return count > 1 ? gsl_stats_sd(value, 1, count) : 0.0;
}

static double logarithm(double value, double low, double high)
{
    return fmin(fmax(log(fmax(value, LITTLE)), low), high);
}

/* As of sorted values, interpolated, without sorting all of them; changes their order. */
static double quantile(double *value, size_t count, double share)
{
    const double at = share * (double)(count - 1);
    const size_t low = (size_t)at;
    const double is = gsl_stats_select(value, 1, count, low), part = at - (double)low,
                 next = low + 1 < count ? gsl_stats_min(value + low + 1, 1, count - low - 1) : is;
    return (1.0 - part) * is + part * next;
}

static void find_band(diagnosed *d, double least)
{
    double low = INFINITY, high = -INFINITY;
    for (size_t i = 0; i < d->rows; i++) {
        low = fmin(low, d->target[i]);
        high = fmax(high, d->target[i]);
    }
    g_autofree double *size = g_new0(double, d->rows);
    for (size_t i = 0; i < d->rows; i++) {
        size[i] = fabs(d->error[i]);
    }
    const double peak = quantile(size, d->rows, PEAK);
    d->to->band = fmax(fmax(BAND_NOISES * d->noise, d->count), fmax(BAND_STEP * (high - low), BAND_PEAK * peak));
    d->to->band = fmax(d->to->band, fmax(least, (double)d->pid->deadband));
}

static void find_limits(diagnosed *d)
{
    const size_t n = d->rows, last = n - n / QUARTERS, half = n - n / 2;
    const rgp_pid_config *pid = d->pid;
    const double middle = 0.5 * ((double)pid->low + (double)pid->high);
    size_t limited = 0, pinned = 0, cut = 0, side[2] = {0};
    for (size_t i = 0; i < n; i++) {
        const bool at = d->saturated[i] && fabs(d->error[i]) > d->to->band;
        limited += at;
        cut += d->saturated[i] && i >= n - half;
        pinned += at && i >= last;
        side[d->output[i] > middle] += at;
    }
    d->to->sign.limited = (double)limited / (double)n;
    d->to->sign.pinned = (double)pinned / (double)(n - last);
    d->to->sign.cut = (double)cut / (double)half;
    d->to->sign.both = limited > 0 ? 2.0 * (double)MIN(side[0], side[1]) / (double)limited : 0.0;
}

/* By the error in the middle, after three quarters and at the end, whether it is within its band in another stretch as
 * long: it shrinks by a share of what is left over each quarter (Aitken 1926). While it does not slow down yet, as a
 * boiler from cold, whether it is at this pace in many such stretches. */
static bool is_coming(double half, double later, double end, double band)
{
    const double side = end < 0.0 ? -1.0 : 1.0, before = side * (half - later), now = side * (later - end),
                 share = now / fmax(before, LITTLE), left = side * end;
    const bool slows = share < MOSTLY_LEFT;
    const double more = slows ? fmin(now * share / (1.0 - share), QUARTERS * now) : STRETCHES * QUARTERS * now;
    return now > 0.0 && left - more < band;
}

static double mean_until(const diagnosed *d, size_t end, size_t count)
{
    return gsl_stats_mean(d->error + end - count, 1, count);
}

/* The error came to be this often beyond its band on the other side. */
static size_t sides_changed(const diagnosed *d)
{
    size_t changed = 0;
    double side = 0.0;
    for (size_t i = 0; i < d->rows; i++) {
        if (fabs(d->error[i]) > d->to->band) {
            changed += side * d->error[i] < 0.0;
            side = d->error[i] > 0.0 ? 1.0 : -1.0;
        }
    }
    return changed;
}

/* The first row from one on that is so, as all are for LASTING of the stretch behind it, or the end of the stretch: one
 * wild reading decides nothing. */
static size_t first_lasting(const diagnosed *d, size_t from, bool (*is_so)(const diagnosed *d, size_t from, size_t i))
{
    const size_t enough = MAX(LEAST_LASTING, (size_t)(LASTING * (double)d->rows));
    size_t rows = 0;
    for (size_t i = from; i < d->rows; i++) {
        rows = is_so(d, from, i) ? rows + 1 : 0;
        if (rows == enough) {
            return i + 1 - enough;
        }
    }
    return d->rows;
}

static bool drives_all(const diagnosed *d, size_t from, size_t i)
{
    (void)from;
    return d->saturated[i] && fabs(d->error[i]) > d->to->band;
}

/* By how much it has moved since a row, towards where its setpoint was then. */
static double nearer(const diagnosed *d, size_t from, size_t i)
{
    return (d->measured[i] - d->measured[from]) * (d->error[from] < 0.0 ? -1.0 : 1.0);
}

static bool came_nearer(const diagnosed *d, size_t from, size_t i)
{
    return nearer(d, from, i) > d->to->band;
}

static bool went_off(const diagnosed *d, size_t from, size_t i)
{
    return nearer(d, from, i) < -d->to->band;
}

/* From where it first drives all it has beyond its band, it comes nearer by as much as that before it goes off by as
 * much: so it drives the right way, whatever takes it away later. */
static bool is_obeyed(const diagnosed *d)
{
    const size_t from = first_lasting(d, 0, drives_all);
    return from < d->rows && first_lasting(d, from, came_nearer) < first_lasting(d, from, went_off);
}

static void find_end(diagnosed *d)
{
    const size_t n = d->rows, quarter = n / QUARTERS;
    g_autofree double *last = g_new0(double, n);
    d->to->left = gsl_stats_median(last, 1, diagnosis_settled(d, n - n / END, last));
    d->to->sign.off = logarithm(fabs(d->to->left) / d->to->band, 0.0, 5.0);
    double most = 0.0, sum = 0.0, size = LITTLE;
    size_t beyond = 0;
    for (size_t i = 0; i + quarter <= n; i += quarter) {
        most = fmax(most, diagnosis_spread(d->error + i, quarter));
    }
    const double now = diagnosis_spread(last, diagnosis_settled(d, n - quarter, last));
    const size_t some = MAX((size_t)1, quarter / 4);
    d->to->comes =
        is_coming(mean_until(d, n / 2, some), mean_until(d, n - quarter, some), mean_until(d, n, some), d->to->band);
    d->to->swing = sqrt(2.0) * now;
    d->to->grew = fabs(mean_until(d, n, some)) - fabs(mean_until(d, some, some));
    d->to->leaves = fabs(mean_until(d, n, some)) - fabs(mean_until(d, n - quarter, some)) > d->to->band;
    d->to->sign.sustained = logarithm(now / fmax(most, LITTLE), -5.0, 0.0);
    d->to->sign.counts = d->count > 0.0 ? logarithm(2.0 * d->to->swing / d->count, -1.0, 3.0) : 3.0;
    for (size_t i = 0; i < n; i++) {
        beyond += fabs(d->error[i]) > d->to->band;
        sum += fabs(d->error[i]) > d->to->band ? d->error[i] : 0.0;
        size += fabs(d->error[i]) > d->to->band ? fabs(d->error[i]) : 0.0;
    }
    d->to->beyond = (double)beyond / (double)n;
    d->to->to_and_fro = sides_changed(d) >= TO_AND_FRO;
    d->to->obeyed = is_obeyed(d);
    d->to->sign.one_side = fabs(sum) / size;
    d->to->sign.signal = logarithm(diagnosis_spread(d->measured, n) / fmax(d->noise, LITTLE), -1.0, 6.0);
}

/* A loop that is too slow lets output and error go the same way for long: the error shrinks while the output still
 * grows. Over distances at which noise does not decide. */
static void find_idle(diagnosed *d)
{
    const size_t n = d->rows, apart = MAX((size_t)1, n / 60);
    double on = 0.0, back = 0.0;
    for (size_t i = apart; i < n; i++) {
        const double e = fabs(d->error[i]) - fabs(d->error[i - apart]), u = (d->output[i] - d->output[i - apart]) *
                                                                            (d->error[i] > 0.0 ? 1.0 : -1.0) *
                                                                            (d->pid->reverse ? -1.0 : 1.0);
        if (fabs(e) > d->noise && fabs(d->error[i]) > d->to->band) {
            on += e * u < 0.0 ? fabs(e) : 0.0;
            back += e * u > 0.0 ? fabs(e) : 0.0;
        }
    }
    d->to->sign.idle = on + back > 0.0 ? (on - back) / (on + back) : 0.0;
}

/* From one row to the next that is looked at, so many on; the derivative goes through all of them. */
static void find_restlessness(diagnosed *d, size_t each)
{
    const size_t n = d->rows / each;
    const rgp_pid_gains *g = &d->pid->gain;
    g_autofree double *move = g_new0(double, n), *of_d = g_new0(double, n);
    const double share = d->step / (d->step + (double)g->filter);
    double slope = 0.0, before = 0.0;
    for (size_t i = 1; i < n * each; i++) {
        slope += share * ((d->measured[i] - d->measured[i - 1]) / d->step - slope);
        if (i % each == 0) {
            move[i / each] = d->output[i] - d->output[i - each];
            of_d[i / each] = (double)g->kd * (slope - before);
            before = slope;
        }
    }
    const double all = diagnosis_spread(move, n), d_alone = diagnosis_spread(of_d, n);
    rgp_signs *s = &d->to->sign;
    d->to->jitter = all / ((double)d->pid->high - (double)d->pid->low);
    s->restless = logarithm(all / fmax(diagnosis_spread(d->output, n), LITTLE), -6.0, 1.0);
    s->hissing = all > 0.0 ? gsl_stats_correlation(move + 1, 1, move + 2, 1, n - 2) : 0.0;
    s->hissing = isfinite(s->hissing) ? s->hissing : 0.0;
    s->of_d = all > 0.0 ? fmin(1.0, d_alone / all) : 0.0;
}

/* ---- all of it -------------------------------------------------------------------------------------- */

static void make_columns(diagnosed *d, size_t rows)
{
    d->target = g_new0(double, rows + 1);
    d->error = g_new0(double, rows + 1);
    d->measured = g_new0(double, rows + 1);
    d->output = g_new0(double, rows + 1);
    d->saturated = g_new0(bool, rows + 1);
}

static void free_columns(diagnosed *d)
{
    g_free(d->target);
    g_free(d->error);
    g_free(d->measured);
    g_free(d->output);
    g_free(d->saturated);
}

/* A reading that is missing, or lies far from those around it, repeats the one before; at the beginning the first one
 * behind. How many stand for themselves. */
static size_t fill(diagnosed *d, const double *reading)
{
    size_t usable = 0, first = 0;
    rgp_spikes_out(reading, d->rows, d->measured);
    while (first < d->rows && isnan(d->measured[first])) {
        first++;
    }
    double before = first < d->rows ? d->measured[first] : 0.0;
    for (size_t i = 0; i < d->rows; i++) {
        usable += isnan(reading[i]) ? 0 : 1;
        before = isnan(d->measured[i]) ? before : d->measured[i];
        d->measured[i] = before;
        d->error[i] = d->target[i] - before;
    }
    return usable;
}

/* The rows in which the loop steps; how many of them have a reading. */
static size_t take_columns(diagnosed *d, const rgp_loop_run *run)
{
    g_autofree double *reading = g_new0(double, run->rows + 1);
    size_t n = 0;
    double first = 0.0, last = 0.0;
    for (size_t i = 0; i < run->rows; i++) {
        const rgp_response_row *r = &run->row[i];
        if (r->stands) {
            continue;
        }
        reading[n] = r->usable ? r->measured : (double)NAN;
        d->target[n] = r->target;
        d->output[n] = r->output;
        d->saturated[n] = r->saturated;
        first = n == 0 ? r->time : first;
        last = r->time;
        n++;
    }
    d->rows = n;
    d->step = n > 1 ? (last - first) / (double)(n - 1) : 0.0;
    d->begin = first;
    d->to->step = d->step;
    d->to->length = last - first;
    return fill(d, reading);
}

/* An integral that stands at a limit asks for no more than there is, and stops short of it by up to a step of its own.
 */
static void mark_limits(diagnosed *d)
{
    const double low = (double)d->pid->low, high = (double)d->pid->high, near = AT_LIMIT * (high - low);
    for (size_t i = 0; i < d->rows && isfinite(near); i++) {
        const double step = (double)d->pid->gain.ki * fabs(d->error[i]) * d->step,
                     short_of = near + fmin(step, SHORT_MOST * (high - low));
        d->saturated[i] |= d->output[i] <= low + short_of || d->output[i] >= high - short_of;
    }
}

/* The way to the first setpoint, at a limit all along, says nothing of the gains: a boiler from cold. What follows is a
 * quarter of all at least, or seldom at that limit: else it is too weak, or has not arrived. */
static void leave_out_approach(diagnosed *d)
{
    const bool high = d->output[0] > ((double)d->pid->low + (double)d->pid->high) / 2.0;
    size_t lead = 0, at_limit = 0;
    while (lead < d->rows && d->saturated[lead]) {
        lead++;
    }
    const size_t rest = d->rows - lead;
    for (size_t i = lead; i < d->rows; i++) {
        at_limit += d->saturated[i] && high == (d->output[i] > ((double)d->pid->low + (double)d->pid->high) / 2.0);
    }
    const bool regulates = rest >= d->rows / QUARTERS || (double)at_limit < OFTEN * (double)rest;
    if (lead > 0 && rest >= LEAST_ROWS && regulates) {
        double *const column[] = {d->target, d->error, d->measured, d->output};
        for (size_t i = 0; i < G_N_ELEMENTS(column); i++) {
            memmove(column[i], column[i] + lead, rest * sizeof(double));
        }
        memmove(d->saturated, d->saturated + lead, rest * sizeof(bool));
        d->rows = rest;
        d->begin += (double)lead * d->step;
        d->to->length -= (double)lead * d->step;
    }
}

/* A number that cannot be computed is no sign. */
static void keep_numbers(rgp_signs *sign)
{
    double of[RGP_SIGNS];
    memcpy(of, sign, sizeof of);
    for (uint32_t i = 0; i < RGP_SIGNS; i++) {
        of[i] = isfinite(of[i]) ? of[i] : 0.0;
    }
    memcpy(sign, of, sizeof of);
}

/* Of a loop that steps far more often than anything moves, one row in so many stands for the others: as a slower loop
 * would have seen it. */
static void thin(diagnosed *d, size_t each)
{
    for (size_t i = 0; i < d->rows / each; i++) {
        d->target[i] = d->target[i * each];
        d->error[i] = d->error[i * each];
        d->measured[i] = d->measured[i * each];
        d->saturated[i] = d->saturated[i * each];
        d->output[i] = d->output[i * each];
    }
    d->rows /= each;
    d->step *= (double)each;
}

static void find_signs(diagnosed *d, double least)
{
    mark_limits(d);
    leave_out_approach(d);
    const size_t each = MAX((size_t)1, (d->rows + MOST_ROWS - 1) / MOST_ROWS);
    find_restlessness(d, each);
    thin(d, each);
    const rgp_noise noise = rgp_noise_of(d->measured, d->rows);
    d->noise = d->to->noise = noise.sigma;
    d->count = noise.step;
    find_band(d, least);
    find_limits(d);
    find_end(d);
    find_idle(d);
    diagnosis_swing(d);
    diagnosis_model(d);
    diagnosis_between(d);
    diagnosis_lean(d);
    keep_numbers(&d->to->sign);
}

/* At a limit, one and the same, with an error that shrinks. */
static bool is_on_its_way(const rgp_diagnosis *d)
{
    return d->sign.pinned > OFTEN && d->sign.both < SELDOM && d->comes && rgp_diagnosis_stays_off(d);
}

void rgp_diagnose(const rgp_loop_run *run, rgp_diagnosis *to)
{
    diagnosed d = {.pid = run->pid, .predict = run->predict, .stands = run->stands, .to = to};
    *to = (rgp_diagnosis){.period = NAN};
    make_columns(&d, run->rows);
    const size_t usable = take_columns(&d, run);
    if (d.rows < LEAST_ROWS || d.step <= 0.0) {
        to->unfit = "it is too short: forty steps of the loop are needed";
    } else if ((double)usable < LEAST_SHARE * (double)d.rows) {
        to->unfit = "less than half of its readings are good";
    } else {
        find_signs(&d, run->least);
        const bool any = diagnosis_chances(to, run);
        if (is_on_its_way(to)) {
            to->unfit = "at its end it often drives all it has, and comes nearer: it has to run for longer";
        } else if (to->sign.limited > ON_ITS_WAY && fabs(to->grew) < to->band) {
            to->unfit = "all along it drives all it has, and nothing moves: that is too weak, or the wrong way, or has "
                        "to run for "
                        "longer";
        } else if (!any) {
            to->unfit = "what it does fits none of the causes that are known; a longer stretch may tell more";
        }
    }
    free_columns(&d);
}
