/* A loop that holds up what falls without it: its model, and which of its gains it is. */
#include "diagnosis_falling.h"

#include "diagnosis_moves.h"
#include "suggestion.h"

#include <math.h>

#define KP_LEAST    1.02 /* times what just holds it up */
#define KP_MOST     40.0
#define LATE_MOST   0.4  /* dead time in lags: later nothing is held up */
#define WENT_OFF    3.0  /* bands */
#define RESTS       -0.2 /* `sustained` */
#define AT_REST     -1.0 /* the same */
#define MOSTLY      0.5  /* of the time */
#define OFF         1.2  /* its gain may be more by so much, or less */
#define FALLEN      30.0 /* stands for the sensitivity of a loop that does not hold it up */
#define CALM        2.2  /* sensitivity: less is no better */
#define FREE        0.1  /* of kp times lag: a derivative for a loop that has none */
#define SHORTER     4.0  /* times: a filter, of which a step at least is left */
#define PACED       4.0  /* times as often */
#define TOO_LONG    0.7  /* of the longest step with which gains are to be had */
#define MOST_GAINED 3.0
#define LEAST_FALLS 0.1

/* ---- changes of its gains --------------------------------------------------------------------------- */

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

/* The moves that go with a cause, and by how much; only a single gain is moved by four. */
static const unsigned moves_of[RGP_CAUSES] = {
    [RGP_CAUSE_P_MUCH] = P_LESS | PD_LESS, [RGP_CAUSE_P_LITTLE] = P_MORE | PD_MORE,
    [RGP_CAUSE_I_MUCH] = I_LESS,           [RGP_CAUSE_D_MISSING] = D_MORE,
    [RGP_CAUSE_D_MUCH] = D_LESS,
};
static const struct {
    double by;
    unsigned among;
} steps[] = {{1.4, ANY}, {2.0, ANY}, {4.0, I_LESS | D_LESS | D_MORE}};

typedef struct least {
    const rgp_stand *on;
    const rgp_pid_gains *now;
    rgp_pid_gains gain;
    double sensitivity; /* INFINITY: there is no change */
} least;

static void consider(least *best, rgp_pid_gains other)
{
    const bool is_other = rgp_is_moved(&other, best->now) || other.filter != best->now->filter;
    const double is = is_other ? sensitivity_of(best->on, &other) : INFINITY;
    best->gain = is < best->sensitivity ? other : best->gain;
    best->sensitivity = fmin(is, best->sensitivity);
}

/* After all moves, without an integral, and with a shorter filter, which may take most of what a derivative leads. One
 * that is not there at all begins at FREE. */
static least least_after(const rgp_stand *on, const rgp_pid_gains *now, rgp_cause cause)
{
    least best = {on, now, *now, INFINITY};
    rgp_pid_gains from = *now, other = *now;
    if (cause == RGP_CAUSE_D_MISSING && now->kd == 0.0f) {
        from.kd = (float)(FREE * on->plant.lag) * now->kp;
    }
    for (size_t k = 0; k < G_N_ELEMENTS(steps); k++) {
        for (uint32_t move = 0; move < RGP_MOVES; move++) {
            if ((moves_of[cause] & steps[k].among) >> move & 1u) {
                consider(&best, rgp_moved(&from, move, steps[k].by));
            }
        }
    }
    if (cause == RGP_CAUSE_I_MUCH) {
        other.ki = 0.0f;
    }
    if (cause == RGP_CAUSE_D_MISSING && (double)now->filter >= SHORTER * on->step) {
        other.filter = now->filter / (float)SHORTER;
    }
    consider(&best, other);
    return best;
}

double diagnosis_falling_move(const rgp_diagnosis *d, const rgp_loop_run *run, rgp_cause cause, rgp_pid_gains *to)
{
    const rgp_stand on = rgp_stand_of(&d->model, NULL, d->step);
    const rgp_pid_gains *now = &run->pid->gain;
    const least best = least_after(&on, now, cause);
    *to = best.gain;
    return sensitivity_of(&on, now) / best.sensitivity;
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
    return gained(sensitivity_of(on, now), least_after(on, now, cause).sensitivity);
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

/* By a model that does not fall: it is driven the right way and stays, or the wrong way up to a limit, where it comes
 * to rest. The output follows what falls, so of that such a model mostly has it that it answers the wrong way, too. */
static bool is_explained(const diagnosed *d, const rgp_process *other, double explained)
{
    const bool right = way_of(d) * other->gain.value > 0.0, off = goes_off(d);
    return explained > RGP_ALL_BUT_ALL && (right ? !off : off && d->to->sign.sustained < RESTS);
}

/* It has been driven with all there is for most of the time and came to rest, which nothing that falls does. */
static bool rests_at_limit(const diagnosed *d)
{
    return d->to->sign.limited > MOSTLY && d->to->sign.sustained < AT_REST;
}

bool diagnosis_falls(diagnosed *d, const rgp_process *other, double explained)
{
    const rgp_process_data data = {d->output, d->measured, d->rows, d->step};
    rgp_process model;
    if (d->stands || d->predict || d->pid->gain.kp <= 0.0f || rests_at_limit(d) || is_explained(d, other, explained)) {
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
