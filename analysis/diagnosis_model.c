/* A model of a loop's mechanism from the stretch that is looked at, and how this loop stands on it. */
#include "diagnosis_parts.h"

#include "margins.h"
#include "suggestion.h"

#include <math.h>

#define ROWS            800u /* that a model is made of */
#define FINEST          8.0  /* rows of that in a period */
#define LITTLE          1e-9
#define AGAINST         8.0
#define DEADS_WITHIN    0.2

#define LEAST_EXPLAINED 0.3 /* a model that explains less says nothing */
#define LEADS           (1.0 / 3.0)
#define NOW_AND_THEN    0.1
#define LITTLE_SWING    0.5 /* of the band */

/* Rows of the run that one row of the model stands for. */
static size_t rows_in_one(const diagnosed *d)
{
    const size_t all = (d->rows + ROWS - 1) / ROWS;
    const size_t most = d->period_rows > 0.0 ? (size_t)fmax(1.0, d->period_rows / FINEST) : all;
    return MIN(all, most);
}

static bool fit(diagnosed *d)
{
    const size_t each = rows_in_one(d), rows = MIN(d->rows / each, ROWS), first = d->rows - rows * each;
    g_autofree double *driven = g_new0(double, rows + 1), *measured = g_new0(double, rows + 1);
    for (size_t i = 0; i < rows; i++) {
        measured[i] = d->measured[first + i * each];
        for (size_t k = 0; k < each; k++) {
            driven[i] += d->output[first + i * each + k] / (double)each;
        }
    }
    const rgp_process_data data = {driven, measured, rows, d->step * (double)each};
    return rgp_process_glance(&data, &d->to->model);
}

static double within(double value, double low, double high)
{
    return isnan(value) ? 0.0 : fmin(fmax(value, low), high);
}

static double logarithm_of_ratio(double of, double to)
{
    return log(fmax(of, LITTLE) / fmax(to, LITTLE));
}

/* The gains of the rule for that model, as near its dead time as it goes. */
static void stand_beside_rule(const diagnosed *d, const rgp_plant *p)
{
    rgp_signs *s = &d->to->sign;
    const rgp_pid_gains *g = &d->pid->gain;
    const bool integral = p->kind == RGP_PROCESS_INTEGRAL;
    const double dead = p->dead + d->step / 2.0 + p->second / 2.0, lag = p->lag + p->second / 2.0,
                 gain = fmax(fabs(p->gain), LITTLE), kp = (integral ? 1.0 : lag) / (gain * 2.0 * dead),
                 ti = integral ? 8.0 * dead : fmin(lag, 8.0 * dead), lesser = dead + p->second;
    s->kp_off = within(logarithm_of_ratio((double)g->kp, kp), -4.0, 4.0);
    s->ki_off = within(logarithm_of_ratio((double)g->ki, kp / ti), -6.0, 4.0);
    s->kd_off = within((double)g->kd / fmax((double)g->kp, LITTLE) / lesser, 0.0, 3.0);
    s->rate = within(log(d->step / (p->dead + p->second + d->step)), -4.0, 2.0);
    s->late = dead / (dead + lag);
    s->second = p->second / (p->second + dead);
    s->bare = s->second * fmax(0.0, 1.0 - s->lead_of_d / LEADS);
    if (integral) {
        s->late = 0.0;
    }
}

/* A dead time that this stretch does not hold several times is no finding. */
static bool is_within(const diagnosed *d, const rgp_plant *p)
{
    const double whole = (double)d->rows * d->step;
    return isfinite(p->gain) && p->gain != 0.0 && p->dead < DEADS_WITHIN * whole && isfinite(p->lag);
}

/* It swings by next to nothing, and is at no limit: a model by which it could not is none. */
static bool is_settled(const diagnosed *d)
{
    const bool swings = d->period_rows > 0.0 && d->to->swing > LITTLE_SWING * d->to->band;
    return !swings && d->to->sign.limited < NOW_AND_THEN;
}

void diagnosis_model(diagnosed *d)
{
    rgp_signs *s = &d->to->sign;
    rgp_process *model = &d->to->model;
    if (!fit(d)) {
        return;
    }
    rgp_plant plant = rgp_process_plant(model);
    s->explained = within(model->fit / 100.0, 0.0, 1.0);
    if (!is_within(d, &plant) || s->explained < LEAST_EXPLAINED) {
        s->explained = 0.0;
        return;
    }
    const double way = d->pid->reverse ? -1.0 : 1.0, error = (model->gain.high - model->gain.low) / 4.0;
    s->against =
        within(-way * model->gain.value / fmax(error, LITTLE * fabs(model->gain.value)), 0.0, AGAINST) * s->explained;
    plant.gain = fabs(plant.gain);
    s->integral = plant.kind == RGP_PROCESS_INTEGRAL ? 1.0 : 0.0;
    const rgp_margins m = rgp_margins_of(&plant, &d->pid->gain, d->step);
    if (!m.stable && is_settled(d)) {
        s->explained = s->against = s->integral = 0.0;
        return;
    }
    stand_beside_rule(d, &plant);
    s->beside =
        m.stable && d->period_rows > 0.0 && m.swing > 0.0 ? within(log(d->to->period / m.swing), -2.0, 2.0) : 0.0;
    s->sensitivity = m.stable ? within(log(m.sensitivity), 0.0, 2.5) : 2.5;
    s->grow = m.stable ? within(log(m.up), -2.0, 3.0) : -1.0;
    s->delay = m.stable ? within(log(fmax(m.delay, LITTLE) / d->step), -2.0, 5.0) : -2.0;
}
