/* Rehearsals of a loop on a model: runs with noise of their own, and their figures. */
#include "rehearsal.h"

#include "rigpulse/drive/slew.h"

#include <gsl/gsl_randist.h>
#include <gsl/gsl_rng.h>
#include <gsl/gsl_sort.h>
#include <math.h>
#include <string.h>

#define BEFORE_SHARE 0.25 /* of the length: looked at before the test */
#define ROWS_LEAST   30u
#define ROWS_MOST    20000.0
#define LOW          0.05
#define HIGH         0.95

/* ---- one run --------------------------------------------------------------------------------------- */

typedef struct run {
    const rgp_rehearsal *how;
    gsl_rng *chance;
    rgp_plant_state plant;
    rgp_pid_config config;
    rgp_pid_state pid;
    rgp_predict_state ahead;
    uint32_t late;         /* the first tick with a reading */
    double reading, noise; /* the newest one, and what is wrong with it */
    double zero;           /* of the numbers that readings are rounded to, as a share of their step */
    double *driven;        /* by row, as a difference from where it began, with what a disturbance adds */
    float asked, output;   /* by the controller, and what the actuator made of it */
    float written;         /* the same with what a disturbance adds */
} run;

static double step_of(const rgp_rehearsal *how)
{
    return how->tick * how->stride;
}

/* The loop has been in charge for long: its integral holds what it drives. One that has none is fed it. */
static void begin_run(run *r, const rgp_rehearsal *how, uint32_t number, gsl_rng *chance, double *driven)
{
    const rgp_pid_input in = {{0.0f, RGP_GOOD}, {0.0f, RGP_GOOD}, 0.0f, 0.0f};
    gsl_rng_set(chance, number + 1);
    *r = (run){.how = how, .chance = chance, .config = *how->pid, .driven = driven};
    r->late = number % how->stride;
    r->noise = gsl_ran_gaussian(chance, how->noise.sigma);
    r->zero = gsl_rng_uniform(chance);
    r->asked = r->output = r->written = (float)how->at;
    r->config.reverse = how->plant->gain < 0.0;
    rgp_plant_begin(&r->plant, how->plant, how->tick);
    rgp_pid_follow(&r->config, &r->pid, &in, r->output, (float)step_of(how));
}

/* The controller is told that this is measured: with what is under way, by what was written since the last step. */
static rgp_reading told(run *r, bool first)
{
    const rgp_rehearsal *how = r->how;
    const rgp_reading read = {(float)r->reading, RGP_GOOD}, written = {r->written, RGP_GOOD};
    return how->predict ? rgp_predict_step(how->predict, &r->ahead, read, written, first ? 0.0f : (float)step_of(how))
                        : read;
}

/* A new reading, and what the controller makes of it. */
static void take_reading(run *r, double target, bool first)
{
    const rgp_rehearsal *how = r->how;
    const double hold = how->noise.hold;
    r->noise = hold * r->noise + gsl_ran_gaussian(r->chance, how->noise.sigma * sqrt(1.0 - hold * hold));
    const double value = rgp_plant_measured(&r->plant) + r->noise, step = how->resolution;
    r->reading = step > 0.0 ? step * (round(value / step + r->zero) - r->zero) : value;
    const rgp_pid_input in = {{(float)target, RGP_GOOD},
                              told(r, first),
                              r->config.gain.ki > 0.0f ? 0.0f : (float)how->at,
                              r->pid.output - r->output};
    r->asked = rgp_pid_step(&r->config, &r->pid, &in, (float)step_of(how)).value;
}

static double target_at(const rgp_rehearsal *how, double since)
{
    const double way = how->ramp > 0.0 ? fmin(fabs(how->size), how->ramp * since) : fabs(how->size);
    return how->test == RGP_RESPONSE_STEP && since >= 0.0 ? copysign(way, how->size) : 0.0;
}

static void do_row(run *r, uint32_t i, uint32_t before, rgp_response_row *row)
{
    const rgp_rehearsal *how = r->how;
    const double since = ((double)i - before) * how->tick, target = target_at(how, since),
                 push = how->test != RGP_RESPONSE_STEP && i >= before ? how->size : 0.0;
    if (i % how->stride == r->late) {
        take_reading(r, target, i < how->stride);
    }
    const float most = (float)(how->slew * how->tick);
    r->output = most > 0.0f ? rgp_slew(r->asked, r->output, most) : r->asked;
    r->driven[i] = fmin(fmax((double)r->output + push, (double)r->config.low), (double)r->config.high) - how->at;
    r->written = (float)(r->driven[i] + how->at);
    rgp_plant_drive(&r->plant, r->driven, i);
    *row = (rgp_response_row){.time = i * how->tick,
                              .target = target,
                              .measured = r->reading,
                              .output = r->driven[i] + how->at,
                              .saturated = r->pid.saturated,
                              .usable = true,
                              .stands = i % how->stride != r->late};
}

/* ---- all of them ----------------------------------------------------------------------------------- */

static rgp_spread spread_of(double *value, uint32_t count)
{
    uint32_t n = 0;
    for (uint32_t i = 0; i < count; i++) {
        if (!isnan(value[i])) {
            value[n++] = value[i];
        }
    }
    gsl_sort(value, 1, n);
    const double last = n > 0 ? n - 1 : 0;
    return n == 0 ? (rgp_spread){NAN, NAN, NAN, 0}
                  : (rgp_spread){value[lround(LOW * last)], value[n / 2], value[lround(HIGH * last)], n};
}

rgp_spread rgp_rehearsed_figure(const rgp_rehearsed *r, size_t offset)
{
    double value[RGP_REHEARSALS];
    for (uint32_t k = 0; k < RGP_REHEARSALS; k++) {
        const rgp_response *one = &r->response[k];
        const bool settled = one->verdict == RGP_VERDICT_SETTLED;
        memcpy(&value[k], (const char *)one + offset, sizeof value[k]);
        value[k] = offset == offsetof(rgp_response, settling) && !settled ? (double)NAN : value[k];
    }
    return spread_of(value, RGP_REHEARSALS);
}

/* The rows of all runs, one run behind the other. Where none settles the first one stands for them: the median of runs
 * that swing, each at a time of its own, is like none of them. */
static void put_course(rgp_rehearsed *to, const rgp_response_row *row)
{
    for (uint32_t i = 0; i < to->rows; i++) {
        double measured[RGP_REHEARSALS], driven[RGP_REHEARSALS];
        for (uint32_t k = 0; k < RGP_REHEARSALS; k++) {
            measured[k] = row[k * to->rows + i].measured;
            driven[k] = row[k * to->rows + i].output;
        }
        const double first[2] = {measured[0], driven[0]};
        to->measured[i] = spread_of(measured, RGP_REHEARSALS);
        to->driven[i] = spread_of(driven, RGP_REHEARSALS);
        to->measured[i].median = to->settled > 0 ? to->measured[i].median : first[0];
        to->driven[i].median = to->settled > 0 ? to->driven[i].median : first[1];
    }
}

static rgp_rehearsed *new_rehearsed(const rgp_rehearsal *how)
{
    rgp_rehearsed *to = g_new0(rgp_rehearsed, 1);
    const uint32_t behind = (uint32_t)fmin(fmax(how->length / how->tick, ROWS_LEAST), ROWS_MOST);
    to->before = MAX(ROWS_LEAST, (uint32_t)(BEFORE_SHARE * behind));
    to->rows = to->before + behind;
    to->tick = how->tick;
    to->measured = g_new(rgp_spread, to->rows);
    to->driven = g_new(rgp_spread, to->rows);
    return to;
}

rgp_rehearsed *rgp_rehearse(const rgp_rehearsal *how)
{
    rgp_rehearsed *to = new_rehearsed(how);
    rgp_response_row *all = g_new(rgp_response_row, (gsize)to->rows * RGP_REHEARSALS);
    double *driven = g_new(double, to->rows);
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    for (uint32_t k = 0; k < RGP_REHEARSALS; k++) {
        rgp_response_row *row = &all[k * to->rows];
        run r;
        begin_run(&r, how, k, chance, driven);
        for (uint32_t i = 0; i < to->rows; i++) {
            do_row(&r, i, to->before, &row[i]);
        }
        rgp_response_of(row, to->rows, to->before, how->test, how->size, 0.0, (double)how->pid->deadband,
                        &to->response[k]);
        to->settled += to->response[k].verdict == RGP_VERDICT_SETTLED;
    }
    put_course(to, all);
    gsl_rng_free(chance);
    g_free(driven);
    g_free(all);
    return to;
}

void rgp_rehearsed_free(rgp_rehearsed *r)
{
    if (r) {
        g_free(r->measured);
        g_free(r->driven);
    }
    g_free(r);
}
