/* A loop that holds up what falls without it: its model, and which of its gains it is. */
#include "diagnosis_falling.h"

#include "diagnosis_moves.h"
#include "suggestion.h"

#include <math.h>

#define KP_LEAST    1.02 /* times what just holds it up */
#define KP_MOST     40.0
#define LATE_MOST   0.4  /* dead time in lags: later nothing is held up */
#define WENT_OFF    3.0  /* bands */
#define OFF         1.2  /* its gain may be more by so much, or less */
#define FALLEN      30.0 /* stands for the sensitivity of a loop that does not hold it up */
#define CALM        2.2  /* sensitivity: less is no better */
#define FREE        0.1  /* of kp times lag: a derivative for a loop that has none */
#define PACED       4.0  /* times as often */
#define TOO_LONG    0.7  /* of the longest step with which gains are to be had */
#define MOST_GAINED 3.0
#define LEAST_FALLS 0.1
#define SOME        0.1  /* gained */
#define SEEN        0.7  /* of the band */
#define ABOVE       2.0  /* noises */
#define COARSE      6.0  /* steps of a reading, from turn to turn */
#define JITTER      0.03 /* of the travel */
#define PINNED      0.1  /* of the last quarter */

/* ---- changes of its gains --------------------------------------------------------------------------- */

/* A derivative that is not there at all begins at FREE. A filter may take most of what one leads. */
static const struct {
    rgp_cause cause;
    double kp, ki, kd, filter;
} changes[] = {
    {RGP_CAUSE_P_MUCH, 1.0 / 1.4, 1.0, 1.0, 1.0},
    {RGP_CAUSE_P_MUCH, 0.5, 1.0, 1.0, 1.0},
    {RGP_CAUSE_P_MUCH, 1.0 / 1.4, 1.0, 1.0 / 1.4, 1.0},
    {RGP_CAUSE_P_MUCH, 0.5, 1.0, 0.5, 1.0},
    {RGP_CAUSE_P_LITTLE, 1.4, 1.0, 1.0, 1.0},
    {RGP_CAUSE_P_LITTLE, 2.0, 1.0, 1.0, 1.0},
    {RGP_CAUSE_P_LITTLE, 1.4, 1.0, 1.4, 1.0},
    {RGP_CAUSE_P_LITTLE, 2.0, 1.0, 2.0, 1.0},
    {RGP_CAUSE_I_MUCH, 1.0, 0.5, 1.0, 1.0},
    {RGP_CAUSE_I_MUCH, 1.0, 0.25, 1.0, 1.0},
    {RGP_CAUSE_I_MUCH, 1.0, 0.0, 1.0, 1.0},
    {RGP_CAUSE_D_MISSING, 1.0, 1.0, 1.4, 1.0},
    {RGP_CAUSE_D_MISSING, 1.0, 1.0, 2.0, 1.0},
    {RGP_CAUSE_D_MISSING, 1.0, 1.0, 4.0, 1.0},
    {RGP_CAUSE_D_MISSING, 1.0, 1.0, 1.0, 0.25},
    {RGP_CAUSE_D_MUCH, 1.0, 1.0, 1.0 / 1.4, 1.0},
    {RGP_CAUSE_D_MUCH, 1.0, 1.0, 0.5, 1.0},
    {RGP_CAUSE_D_MUCH, 1.0, 1.0, 0.25, 1.0},
};

static rgp_pid_gains changed(const rgp_pid_gains *g, size_t change, double lag)
{
    rgp_pid_gains other = *g;
    const bool begins = g->kd == 0.0f && changes[change].cause == RGP_CAUSE_D_MISSING;
    other.kp *= (float)changes[change].kp;
    other.ki *= (float)changes[change].ki;
    other.kd = (float)changes[change].kd * (begins ? (float)(FREE * lag) * g->kp : g->kd);
    other.filter *= (float)changes[change].filter;
    return other;
}

/* The worst, with a gain that is OFF. */
static double sensitivity_of(const rgp_stand *on, const rgp_pid_gains *g)
{
    static const double off[] = {1.0, OFF, 1.0 / OFF};
    double worst = 1.0;
    for (size_t i = 0; i < G_N_ELEMENTS(off); i++) {
        rgp_stand other = *on;
        other.plant.gain *= off[i];
        const rgp_margins m = rgp_stand_margins(&other, g);
        worst = fmax(worst, m.stable ? m.sensitivity : FALLEN);
    }
    return fmin(worst, FALLEN);
}

/* The least after a change that goes with that cause, and leaves a step of a filter; INFINITY: there is none. */
static double least_after(const rgp_stand *on, const rgp_pid_gains *now, rgp_cause cause, rgp_pid_gains *to)
{
    double least = INFINITY;
    for (size_t i = 0; i < G_N_ELEMENTS(changes); i++) {
        const rgp_pid_gains other = changed(now, i, on->plant.lag);
        const bool other_than_now = rgp_is_moved(&other, now) || other.filter != now->filter;
        const bool can = changes[i].cause == cause && other_than_now &&
                         (other.filter == now->filter || (double)other.filter >= on->step);
        const double is = can ? sensitivity_of(on, &other) : INFINITY;
        *to = is < least ? other : *to;
        least = fmin(least, is);
    }
    return least;
}

double diagnosis_falling_move(const rgp_diagnosis *d, const rgp_loop_run *run, rgp_cause cause, rgp_pid_gains *to)
{
    const rgp_stand on = rgp_stand_of(&d->model, NULL, d->step);
    const rgp_pid_gains *now = &run->pid->gain;
    return sensitivity_of(&on, now) / least_after(&on, now, cause, to);
}

bool diagnosis_falling_holds(const rgp_diagnosis *d, const rgp_pid_gains *gains)
{
    const rgp_stand on = rgp_stand_of(&d->model, NULL, d->step);
    return sensitivity_of(&on, gains) < FALLEN;
}

/* ---- signs ------------------------------------------------------------------------------------------ */

/* The logarithm of how many times less sensitive it is than before; below CALM it is as good as there. */
static double gained(double before, double after)
{
    return fmin(fmax(log(before / fmax(after, CALM)), 0.0), MOST_GAINED);
}

static double gained_by(const rgp_stand *on, const rgp_pid_gains *now, rgp_cause cause)
{
    rgp_pid_gains other;
    return gained(sensitivity_of(on, now), least_after(on, now, cause, &other));
}

static void put_signs(rgp_diagnosis *to, const rgp_pid_gains *now)
{
    const rgp_stand on = rgp_stand_of(&to->model, NULL, to->step);
    rgp_stand quicker = on;
    rgp_signs *s = &to->sign;
    quicker.step /= PACED;
    s->falls = fmax(log(sensitivity_of(&on, now)), LEAST_FALLS);
    s->less_p = gained_by(&on, now, RGP_CAUSE_P_MUCH);
    s->more_p = gained_by(&on, now, RGP_CAUSE_P_LITTLE);
    s->less_i = gained_by(&on, now, RGP_CAUSE_I_MUCH);
    s->more_d = gained_by(&on, now, RGP_CAUSE_D_MISSING);
    s->less_d = gained_by(&on, now, RGP_CAUSE_D_MUCH);
    s->sooner = to->step > TOO_LONG * rgp_falling_step(&on.plant)
                    ? gained(sensitivity_of(&on, now), sensitivity_of(&quicker, now))
                    : 0.0;
}

/* ---- its model -------------------------------------------------------------------------------------- */

static double way_of(const diagnosed *d)
{
    return d->pid->reverse ? -1.0 : 1.0;
}

/* All along it goes off, the way that a loop of the wrong sign drives it. */
static bool goes_off(const diagnosed *d)
{
    return d->to->grew > WENT_OFF * d->to->band && !d->to->to_and_fro;
}

/* Such gains could hold it up, the right way or, as it went off, the wrong one. */
static bool is_held(const diagnosed *d, const rgp_process *model, const rgp_margins *m)
{
    const double held = way_of(d) * (double)d->pid->gain.kp * model->gain.value, size = fabs(held);
    const bool could = size > KP_LEAST && size < KP_MOST && model->dead.value < LATE_MOST * model->lag.value;
    return could && (held < 0.0 ? goes_off(d) : m->stable || goes_off(d) || d->period_rows > 0.0);
}

/* The output follows what falls, so a model that does not has it that it answers the wrong way. */
static bool is_explained(const diagnosed *d, const rgp_process *other, double explained)
{
    return explained > RGP_ALL_BUT_ALL && way_of(d) * other->gain.value > 0.0 && !goes_off(d);
}

bool diagnosis_falls(diagnosed *d, const rgp_process *other, double explained)
{
    const rgp_process_data data = {d->output, d->measured, d->rows, d->step};
    rgp_process model;
    if (d->stands || d->predict || d->pid->gain.kp <= 0.0f || is_explained(d, other, explained)) {
        return false;
    }
    d->to->stands = true;
    if (!rgp_process_glance_falling(&data, &model)) {
        return false;
    }
    const rgp_stand on = rgp_stand_of(&model, NULL, d->to->step);
    const rgp_margins m = rgp_stand_margins(&on, &d->pid->gain);
    d->to->falls = is_held(d, &model, &m);
    d->to->stands = !d->to->falls;
    if (d->to->falls) {
        d->to->model = model;
        d->to->margins = m;
        put_signs(d->to, &d->pid->gain);
    }
    return d->to->falls;
}

/* ---- what may be said of it ------------------------------------------------------------------------- */

/* Its model has the other sign than its controller. */
static bool is_driven_off(const rgp_diagnosis *d, const rgp_loop_run *run)
{
    return (d->model.gain.value < 0.0) != (run->pid->reverse != 0);
}

/* To and fro, by more than noise. */
static bool swings(const rgp_diagnosis *d)
{
    return isfinite(d->period) && d->swing > fmax(SEEN * d->band, ABOVE * d->noise);
}

void diagnosis_falling_bears(const rgp_diagnosis *d, const rgp_loop_run *run, bool *may)
{
    const rgp_signs *s = &d->sign;
    const bool wrong = is_driven_off(d, run), pinned = s->pinned > PINNED && !d->comes,
               other[RGP_CAUSES] = {
                   [RGP_CAUSE_HEALTHY] = !pinned,
                   [RGP_CAUSE_WEAK] = pinned,
                   [RGP_CAUSE_PACE] = s->sooner > SOME,
                   [RGP_CAUSE_OUTSIDE] = swings(d),
                   [RGP_CAUSE_FRICTION] = swings(d),
                   [RGP_CAUSE_PLAY] = swings(d),
                   [RGP_CAUSE_COUNTS] = exp(s->counts) < COARSE,
                   [RGP_CAUSE_NOISE] = run->pid->gain.kd > 0.0f && d->jitter > JITTER,
                   [RGP_CAUSE_P_MUCH] = s->less_p > SOME,
                   [RGP_CAUSE_P_LITTLE] = s->more_p > SOME,
                   [RGP_CAUSE_I_MUCH] = s->less_i > SOME,
                   [RGP_CAUSE_D_MISSING] = s->more_d > SOME,
                   [RGP_CAUSE_D_MUCH] = s->less_d > SOME && run->pid->gain.kd > 0.0f,
               };
    for (int c = 0; c < RGP_CAUSES; c++) {
        may[c] = wrong ? c == RGP_CAUSE_SIGN : other[c];
    }
}
