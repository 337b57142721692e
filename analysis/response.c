/* The response of a loop to a test: rise, overshoot, settling, peak, steady error, effort, and the verdict. */
#include "response.h"

#include "ringing.h"

#include <gsl/gsl_fit.h>
#include <gsl/gsl_movstat.h>
#include <gsl/gsl_multifit.h>
#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>
#include <math.h>
#include <string.h>

#define BEFORE_LEAST 10u
#define BEHIND_LEAST 20u
#define TURNS_MOST   64u
#define WINDOW_LEAST 5u     /* readings of the course's median */
#define WINDOW_FLAT  15u    /* where nothing rises */
#define NORMAL_MAD   1.4826 /* standard deviation over median absolute deviation, of a normal distribution */
#define MEDIAN_ERROR 1.25   /* standard error of a median over that of a mean, of a normal distribution */
#define SURE         4.5    /* standard errors of the course that chance hardly ever reaches */
#define BY_ITSELF    1.25   /* times what it was off before the test */
#define STEP_SHARE   0.02   /* of a step, and of a peak, that counts as settled */
#define PEAK_SHARE   0.1
#define HIDDEN_FROM  0.5 /* of a step or a peak: what is half as great all by itself hides the answer */
#define SEEN         3.0 /* standard errors */
#define SWINGS_ON    0.95
#define UNLIKE_MOST  0.1 /* of a swing's height that its curve may miss by */
#define FIT_ROWS     1000u
#define REGULAR      0.3 /* spread of half periods over their mean */
#define TOLERATED    1.5 /* times what the loop leaves alone: it acts only beyond */
#define CALMER       0.7 /* from third to third, where it dies away */
#define ON_ITS_WAY   0.1 /* of a step or a peak, that it went before the test in one direction */
#define WIDE         2.0 /* times the band that a calm loop would have */
#define CUBIC        4u  /* numbers of it */

/* A test, prepared: one value for each row, those that could not be used standing as they were. */
typedef struct course {
    uint32_t rows;
    double tick; /* mean seconds from row to row */
    double *time, *error, *course;
} course;

static course course_begin(const rgp_response_row *row, uint32_t rows)
{
    course c = {.rows = rows, .tick = (row[rows - 1].time - row[0].time) / (rows - 1)};
    c.time = g_new(double, rows);
    c.error = g_new(double, rows);
    c.course = g_new(double, rows);
    double last = 0.0;
    for (uint32_t i = rows; i-- > 0;) { /* the first usable one, for those before it */
        last = row[i].usable ? row[i].measured - row[i].target : last;
    }
    for (uint32_t i = 0; i < rows; i++) {
        last = row[i].usable ? row[i].measured - row[i].target : last;
        c.time[i] = row[i].time;
        c.error[i] = last;
    }
    return c;
}

static void course_end(course *c)
{
    g_free(c->time);
    g_free(c->error);
    g_free(c->course);
}

static void smooth_course(course *c, uint32_t window)
{
    const gsl_vector_const_view from = gsl_vector_const_view_array(c->error, c->rows);
    gsl_vector_view to = gsl_vector_view_array(c->course, c->rows);
    gsl_movstat_workspace *space = gsl_movstat_alloc(window);
    gsl_movstat_median(GSL_MOVSTAT_END_TRUNCATE, &from.vector, &to.vector, space);
    gsl_movstat_free(space);
}

static double median_of(const double *x, uint32_t count)
{
    g_autofree double *sorted = g_memdup2(x, count * sizeof *x);
    gsl_sort(sorted, 1, count);
    return gsl_stats_median_from_sorted_data(sorted, 1, count);
}

/* From second differences, so that neither a drift nor a swing nor a spike is noise. */
static double noise_of(const rgp_response_row *row, uint32_t rows)
{
    g_autofree double *bend = g_new(double, rows);
    uint32_t n = 0;
    for (uint32_t i = 2; i < rows; i++) {
        if (row[i].usable && row[i - 1].usable && row[i - 2].usable) {
            bend[n++] = fabs(row[i].measured - 2.0 * row[i - 1].measured + row[i - 2].measured);
        }
    }
    return n > 0 ? NORMAL_MAD * median_of(bend, n) / sqrt(6.0) : 0.0;
}

/* ---- turning points -------------------------------------------------------------------------------- */

/* The turning points of the course from a row on, the first one included; a turn counts when it comes back by `least`.
 */
static uint32_t turns_of(const course *c, uint32_t first, double least, uint32_t *turn)
{
    uint32_t n = 0, extreme = first;
    double way = c->course[first] > 0.0 ? 1.0 : -1.0;
    for (uint32_t i = first; i < c->rows && n < TURNS_MOST; i++) {
        if (way * (c->course[i] - c->course[extreme]) > 0.0) {
            extreme = i;
        } else if (way * (c->course[extreme] - c->course[i]) > least) {
            turn[n++] = extreme;
            extreme = i;
            way = -way;
        }
    }
    return n;
}

/* ---- before the test ------------------------------------------------------------------------------- */

/* On its way somewhere: most of what the course did is a straight line, and that goes far. */
static bool is_unsettled(const course *before, double far)
{
    double level, slope, v00, v01, v11, squares;
    gsl_fit_linear(before->time, 1, before->course, 1, before->rows, &level, &slope, &v00, &v01, &v11, &squares);
    const double all = gsl_stats_variance(before->course, 1, before->rows) * (before->rows - 1);
    const double moved = fabs(slope) * (before->time[before->rows - 1] - before->time[0]);
    return moved > far && all > 0.0 && squares < 0.2 * all;
}

static double amplitude_of(const course *c)
{
    const double middle = median_of(c->course, c->rows);
    double most = 0.0;
    for (uint32_t i = 0; i < c->rows; i++) {
        most = fmax(most, fabs(c->course[i] - middle));
    }
    return most;
}

/* The period of what it does by itself, where that swings regularly; NaN: it does not. */
static double own_period_of(const course *before, double least)
{
    uint32_t turn[TURNS_MOST];
    double half[TURNS_MOST];
    const uint32_t n = turns_of(before, 0, least, turn);
    for (uint32_t i = 1; i < n; i++) {
        half[i - 1] = before->time[turn[i]] - before->time[turn[i - 1]];
    }
    if (n < 5) {
        return NAN;
    }
    const double mean = gsl_stats_mean(half + 1, 1, n - 2); /* the first turn may be where the look began */
    return gsl_stats_sd(half + 1, 1, n - 2) < REGULAR * mean ? 2.0 * mean : NAN;
}

/* ---- the top --------------------------------------------------------------------------------------- */

/* The greatest value of a cubic through the readings about a place, and its standard error. */
static double top_at(const course *c, double sign, uint32_t place, uint32_t half, double *error)
{
    const uint32_t from = place > half ? place - half : 0, to = MIN(place + half + 1, c->rows), count = to - from;
    gsl_matrix *shape = gsl_matrix_alloc(count, CUBIC), *covariance = gsl_matrix_alloc(CUBIC, CUBIC);
    gsl_vector *value = gsl_vector_alloc(count), *linear = gsl_vector_alloc(CUBIC), *at = gsl_vector_alloc(CUBIC);
    gsl_multifit_linear_workspace *space = gsl_multifit_linear_alloc(count, CUBIC);
    double squares, top = -INFINITY, y, y_error;
    for (uint32_t i = 0; i < count; i++) {
        const double x = ((double)(from + i) - place) / half;
        for (uint32_t k = 0; k < CUBIC; k++) {
            gsl_matrix_set(shape, i, k, pow(x, k));
        }
        gsl_vector_set(value, i, sign * c->error[from + i]);
    }
    gsl_multifit_linear(shape, value, linear, covariance, &squares, space);
    for (uint32_t i = 0; i < count; i++) {
        gsl_matrix_get_row(at, shape, i);
        gsl_multifit_linear_est(at, linear, covariance, &y, &y_error);
        if (y > top) {
            top = y;
            *error = y_error;
        }
    }
    gsl_matrix_free(shape);
    gsl_matrix_free(covariance);
    gsl_vector_free(value);
    gsl_vector_free(linear);
    gsl_vector_free(at);
    gsl_multifit_linear_free(space);
    return top;
}

/* The place at which the course is greatest on a side (0: on either), from a row on. */
static uint32_t greatest_of(const course *c, double side, uint32_t from)
{
    uint32_t place = from;
    for (uint32_t i = from; i < c->rows; i++) {
        const double here = side == 0.0 ? fabs(c->course[i]) : side * c->course[i];
        const double best = side == 0.0 ? fabs(c->course[place]) : side * c->course[place];
        place = here > best ? i : place;
    }
    return place;
}

/* ---- swings ---------------------------------------------------------------------------------------- */

/* From the first turning point on; not shown where it swung like that before, or where a damped cosine does not fit. */
static void find_decay(const course *before, const course *c, uint32_t first, double least, double sigma,
                       uint32_t window, rgp_response *r)
{
    uint32_t turn[TURNS_MOST];
    const uint32_t n = turns_of(c, first, least, turn);
    if (n < 3) {
        return;
    }
    const double *y = c->course, d1 = fabs(y[turn[0]] - y[turn[1]]), d2 = fabs(y[turn[1]] - y[turn[2]]);
    const double d3 = n > 3 ? fabs(y[turn[2]] - y[turn[3]]) : d2 * d2 / d1;
    const double period = 2.0 * (c->time[turn[n - 1]] - c->time[turn[0]]) / (n - 1);
    const uint32_t last = MIN(turn[n - 1] + (uint32_t)(0.5 * period / c->tick), c->rows - 1);
    const uint32_t step = (last - turn[0]) / FIT_ROWS + 1, count = (last - turn[0]) / step + 1;
    g_autofree double *time = g_new(double, count), *value = g_new(double, count);
    for (uint32_t i = 0; i < count; i++) {
        time[i] = c->time[turn[0] + i * step];
        value[i] = y[turn[0] + i * step];
    }
    rgp_ringing d;
    double line_error;
    if (!rgp_ringing_fit(time, value, count, (double)(last - turn[0]) / window, d3 / d1, period, &d) ||
        d.residual > fmax(2.0 * sigma, UNLIKE_MOST * d.height) || d.period > c->time[c->rows - 1] - c->time[0]) {
        return; /* and what takes longer than was looked at is no swing */
    }
    const double line = rgp_line_at(before->time, before->course, before->rows, d.period, &line_error);
    const double covered = before->time[before->rows - 1] - before->time[0];
    r->period = d.period;
    if (!(covered > 2.0 * d.period && line > SEEN * line_error && line > 0.3 * d.height)) {
        r->decay = d.ratio;
        r->decay_error = d.ratio_error;
    }
}

/* ---- sums ------------------------------------------------------------------------------------------ */

static void sum_up(const rgp_response_row *row, uint32_t rows, rgp_response *r)
{
    double low = INFINITY, high = -INFINITY;
    uint32_t changes = 0, between = 0;
    for (uint32_t i = 0; i < rows; i++) {
        const double dt = i + 1 < rows ? row[i + 1].time - row[i].time : 0.0;
        const double moved = i > 0 ? fabs(row[i].output - row[i - 1].output) : 0.0;
        r->saturated += row[i].saturated ? dt : 0.0;
        r->effort += moved;
        r->iae += row[i].usable ? fabs(row[i].target - row[i].measured) * dt : 0.0;
        changes += moved > 0.0;
        low = fmin(low, row[i].output);
        high = fmax(high, row[i].output);
    }
    for (uint32_t i = 0; i < rows; i++) {
        between += row[i].output > low && row[i].output < high;
    }
    r->switchings = between == 0 && changes > 1 ? changes * 3600.0 / (row[rows - 1].time - row[0].time) : NAN;
}

/* ---- steps ----------------------------------------------------------------------------------------- */

/* By how much the target really went: at once, or along a ramp to where it then was. */
static double made_by(const rgp_response_row *row, uint32_t rows, uint32_t before, double size)
{
    const double jump = row[before].target - row[before - 1].target;
    return fabs(jump - size) <= 0.05 * fabs(size) ? jump : row[rows - 1].target - row[before - 1].target;
}

/* The time at which the readings, by medians of five, are first past a share of the way; NaN: never. */
static double first_past(const course *measured, double from, double size, double share)
{
    for (uint32_t i = 0; i < measured->rows; i++) {
        const double done = (measured->course[i] - from) / size;
        if (done >= share) {
            const double earlier = i > 0 ? (measured->course[i - 1] - from) / size : done;
            const double back = done > earlier ? (done - share) / (done - earlier) : 0.0;
            return measured->time[i] - (i > 0 ? back * (measured->time[i] - measured->time[i - 1]) : 0.0);
        }
    }
    return NAN;
}

static double rise_of(const rgp_response_row *row, uint32_t rows, uint32_t before, double made)
{
    g_autofree rgp_response_row *plain = g_memdup2(row, rows * sizeof *row);
    for (uint32_t i = 0; i < rows; i++) {
        plain[i].target = 0.0;
    }
    course all = course_begin(plain, rows);
    const double from = median_of(all.error + before - BEFORE_LEAST, BEFORE_LEAST);
    course_end(&all);
    course behind = course_begin(plain + before, rows - before);
    smooth_course(&behind, WINDOW_LEAST);
    const double rise = first_past(&behind, from, made, 0.9) - first_past(&behind, from, made, 0.1);
    course_end(&behind);
    return rise;
}

/* ---- the verdict ----------------------------------------------------------------------------------- */

static bool is_inside(const course *c, uint32_t i, double band)
{
    return fabs(c->course[i]) <= band;
}

static double most_between(const course *c, uint32_t from, uint32_t to)
{
    double most = 0.0;
    for (uint32_t i = from; i < to; i++) {
        most = fmax(most, fabs(c->course[i]));
    }
    return most;
}

/* It leaves the band in the last third by about as much as in the one before. */
static bool goes_on_leaving(const course *c, double band)
{
    const uint32_t third = c->rows / 3, last = c->rows - third;
    const double most = most_between(c, last, c->rows);
    return most > band && most > CALMER * most_between(c, last - third, last);
}

static void find_settling(const course *c, uint32_t window, rgp_response *r)
{
    uint32_t last = 0;
    for (uint32_t i = 0; i < c->rows; i++) {
        last = is_inside(c, i, r->band) ? last : i + 1;
    }
    const double look = c->time[c->rows - 1] - c->time[0];
    const double at = last < c->rows ? c->time[last] - c->time[0] : NAN;
    const double rest = fmax(fmax(0.5 * at, 5.0 * window * c->tick), isfinite(r->period) ? r->period : 0.0);
    r->settling = NAN;
    if (last < c->rows && !goes_on_leaving(c, r->band)) {
        r->settling = at;
        r->verdict = look - at >= rest ? RGP_VERDICT_SETTLED : RGP_VERDICT_TOO_SHORT;
        r->needs = at + rest;
    } else if (isfinite(r->period) &&
               (isnan(r->decay) || (r->decay + 2.0 * r->decay_error >= 1.0 && r->decay >= SWINGS_ON))) {
        r->verdict = RGP_VERDICT_SWINGS;
    } else {
        const uint32_t third = c->rows - c->rows / 3;
        const double came = fabs(c->course[third]) - fabs(r->steady);
        const bool is_off = fabs(r->steady) > r->band;
        r->verdict = is_off && came > 0.2 * fabs(r->steady) ? RGP_VERDICT_TOO_SHORT
                     : is_off                               ? RGP_VERDICT_OFF
                                                            : RGP_VERDICT_RESTLESS;
        r->needs = 2.0 * look;
    }
}

/* The median of the course at the end: over whole periods, or its last tenth. */
static void find_steady(const course *c, uint32_t window, rgp_response *r)
{
    const double periods = isfinite(r->period) ? floor(c->rows / 3.0 * c->tick / r->period) : 0.0;
    const uint32_t wanted = periods > 0.0 ? (uint32_t)(periods * r->period / c->tick) : c->rows / 10;
    const uint32_t count = MIN(MAX(wanted, 5u), c->rows);
    const double *end = c->course + c->rows - count;
    r->steady = -median_of(end, count);
    const double spread = fmax(gsl_stats_sd(end, 1, count), MEDIAN_ERROR * r->noise / sqrt(window));
    r->steady_error = MEDIAN_ERROR * spread / sqrt(fmax((double)count / window, 1.0));
}

/* ---- the whole ------------------------------------------------------------------------------------- */

typedef struct judged {
    const rgp_response_row *row;
    uint32_t rows, before;
    rgp_response_test test;
    double size, band, tolerance;
} judged;

static void find_peak(const judged *j, const course *c, uint32_t window, uint32_t *first, rgp_response *r)
{
    const bool step = j->test == RGP_RESPONSE_STEP;
    double sign = r->made < 0.0 ? -1.0 : 1.0, error = 0.0;
    uint32_t from = 0;
    while (step && from + 1 < c->rows && sign * c->course[from] < 0.0) {
        from++;
    }
    *first = greatest_of(c, step ? sign : 0.0, from);
    sign = step ? sign : c->course[*first] < 0.0 ? -1.0 : 1.0;
    const uint32_t half = step && isfinite(r->rise) ? (uint32_t)(0.5 * r->rise / c->tick) : window;
    const double top = top_at(c, sign, *first, MAX(half, 4u), &error);
    const bool seen = top > SEEN * error;
    if (!step) {
        r->peak = top;
    } else if (!r->unsettled) {
        r->peak = seen ? top : NAN;
        r->overshoot = seen ? 100.0 * top / fabs(r->made) : NAN;
        r->overshoot_error = 100.0 * error / fabs(r->made);
        r->overshoot_under = 100.0 * SEEN * error / fabs(r->made);
    }
}

static void find_verdict(const judged *j, course *before, course *c, rgp_response *r)
{
    const bool step = j->test == RGP_RESPONSE_STEP;
    r->made = step ? made_by(j->row, j->rows, j->before, j->size) : NAN;
    r->rise = step && r->made != 0.0 ? rise_of(j->row, j->rows, j->before, r->made) : NAN;
    const uint32_t rises = isfinite(r->rise) ? 2u * (uint32_t)(r->rise / c->tick / 8.0) + 1u : WINDOW_FLAT;
    const uint32_t window = MIN(MAX(rises, WINDOW_LEAST), (c->rows / 10u) | 1u);
    const double sigma = MEDIAN_ERROR * r->noise / sqrt(window);
    uint32_t first;
    smooth_course(before, window);
    smooth_course(c, window);
    r->before = amplitude_of(before);
    r->before_period = own_period_of(before, fmax(r->before, SURE * sigma));
    const double basis = step ? fabs(r->made) : fabs(c->course[greatest_of(c, 0.0, 0)]);
    const double own = fmax(fmax((step ? STEP_SHARE : PEAK_SHARE) * basis, SURE * sigma), TOLERATED * j->tolerance);
    r->unsettled = is_unsettled(before, fmax(own, ON_ITS_WAY * basis));
    r->band = j->band > 0.0 ? j->band : fmax(own, r->unsettled ? 0.0 : BY_ITSELF * r->before);
    find_peak(j, c, window, &first, r);
    find_decay(before, c, first, fmax(r->band, 0.05 * basis), sigma, window, r);
    find_steady(c, window, r);
    find_settling(c, window, r);
    if (r->verdict == RGP_VERDICT_SETTLED && j->band <= 0.0 && r->band > WIDE * own) {
        r->verdict = RGP_VERDICT_BACK;
    }
    if (j->band <= 0.0 && !r->unsettled && BY_ITSELF * r->before > HIDDEN_FROM * basis) {
        r->verdict = RGP_VERDICT_HIDDEN;
        r->settling = r->rise = r->overshoot = r->decay = NAN;
    } else if (r->unsettled) {
        r->rise = NAN;
    }
}

bool rgp_response_of(const rgp_response_row *row, uint32_t rows, uint32_t before, rgp_response_test test, double size,
                     double band, double tolerance, rgp_response *response)
{
    if (before < BEFORE_LEAST || rows < before + BEHIND_LEAST) {
        return false;
    }
    const judged j = {row, rows, before, test, size, band, tolerance};
    course earlier = course_begin(row, before), behind = course_begin(row + before, rows - before);
    *response = (rgp_response){.noise = noise_of(row, before),
                               .rise = NAN,
                               .overshoot = NAN,
                               .peak = NAN,
                               .decay = NAN,
                               .period = NAN,
                               .before_period = NAN,
                               .needs = NAN};
    sum_up(row + before, rows - before, response);
    find_verdict(&j, &earlier, &behind, response);
    course_end(&earlier);
    course_end(&behind);
    return true;
}
