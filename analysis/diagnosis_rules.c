/* The next trial for a cause by rule of thumb. */
#include "diagnosis_rules.h"

#include "diagnosis_moves.h"

#include "margins.h"
#include "suggestion.h"

#define LESS       0.7 /* of the gains, for a trial */
#define MORE       1.4
#define A_LITTLE   1.2
#define MUCH_LESS  0.5
#define MUCH_MORE  2.0
#define LEAST_I    0.4 /* of the integral gain, in one trial */
#define ENOUGH_I   1.5 /* of what the rule has */
#define QUICKER    3.0
#define LAG_OF_I   0.22 /* quarter turns, 20 degrees */
#define LEAD_OF_D  0.33 /* 30 degrees */
#define CALMING    (ALL_LESS | PD_LESS | I_LESS | PD_MORE | PD_MORE_I_LESS)
#define RESTS      0.5 /* of the swing */
#define LEAST_OF_D 4.0 /* derivative time, in that of its filter */

static void all_times(const telling *t, double by, GString *to)
{
    rgp_trial_put_all(to, t->names, &t->run->pid->gain, by);
}

/* So much that the gains could grow by ROOM; without a model by a step that is not too great. */
static double calmer(const telling *t)
{
    const double grow = has_model(t) && t->d->sign.grow > -1.0 ? exp(t->d->sign.grow) : 0.0;
    return grow > 0.0 ? fmin(LESS, fmax(MUCH_LESS, grow / ROOM)) : t->d->sign.both > 0.3 ? MUCH_LESS : LESS;
}

static void put_p_and_d(const telling *t, double by, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    rgp_trial_put_gain(to, t->names, 0, by * (double)g->kp);
    if (g->kd > 0.0f) {
        rgp_trial_put_gain(to, t->names, 2, by * (double)g->kd);
    }
}

/* An integral that does little stays. */
void rgp_rule_less(const telling *t, GString *to)
{
    const double by = calmer(t);
    if (has_slow_i(t)) {
        put_p_and_d(t, by, to);
    } else {
        all_times(t, by, to);
    }
}

/* Gains that have room are not what is to be changed where the pace is too slow. */
void rgp_rule_slower(const telling *t, GString *to)
{
    if (!has_model(t) || t->d->sign.grow < log(ROOM)) {
        rgp_rule_less(t, to);
    }
}

/* By a model that may be right so much more of it were more than the rule has. */
static bool has_enough_i(const telling *t, double by)
{
    return t->d->explained > HALF_EXPLAINED && t->d->sign.ki_off + log(by) > log(ENOUGH_I);
}

void rgp_rule_more(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    if (rgp_diagnosis_let_go(t->d, t->run)) {
        rgp_trial_put_gain(to, t->names, 0, MUCH_MORE * (double)g->kp);
        return;
    }
    const double by = !has_model(t) ? A_LITTLE : t->d->beyond > 0.5 ? MUCH_MORE : MORE;
    if (has_enough_i(t, by)) {
        put_p_and_d(t, by, to);
    } else {
        all_times(t, by, to);
    }
}

static void try_more_p(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const double by = fmin(fmin(exp(-t->d->sign.kp_off), exp(t->d->sign.grow) / ROOM), MUCH_MORE);
    rgp_trial_put_gain(to, t->names, 0, fmax(by, MORE) * (double)g->kp);
}

void rgp_rule_less_i(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    if (lacks_p(t)) {
        try_more_p(t, to);
        return;
    }
    const double w = isfinite(t->d->period) ? 2.0 * G_PI / t->d->period : 0.0,
                 ki = (double)g->kp * w * tan(LAG_OF_I * G_PI / 2.0);
    rgp_trial_put_gain(to, t->names, 1,
                       w > 0.0 ? fmin(LESS * (double)g->ki, fmax(ki, LEAST_I * (double)g->ki))
                               : MUCH_LESS * (double)g->ki);
}

/* Towards an integral time of the rule, in steps that are not too great; at once where there is next to no integral. */
void rgp_rule_more_i(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const rgp_process *m = &t->d->model;
    const double dead = m->dead.value + m->second + t->d->step,
                 rule = !has_model(t)                     ? 0.0
                        : m->kind == RGP_PROCESS_INTEGRAL ? 8.0 * dead
                                                          : fmin(m->lag.value, 8.0 * dead),
                 ki = (double)g->kp / fmax(rule, t->d->length / 15.0);
    const double most = rgp_diagnosis_idle_i(t->d, t->run) || g->ki <= 0.0f ? INFINITY : 4.0 * (double)g->ki;
    rgp_trial_put_gain(to, t->names, 1, fmax(MORE * (double)g->ki, fmin(ki, most)));
}

/* The least move after which the loop has room by the model, or else the one that leaves it least sensitive. */
static void try_calmest(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const rgp_stand on = rgp_stand_of(&t->d->model, t->run->predict, t->d->step);
    rgp_pid_gains other;
    if (rgp_calmed(&on, g, CALMING, &other)) {
        rgp_trial_put_changed(to, t->names, g, &other);
    }
}

/* Of a healthy loop that is near swinging. */
void rgp_rule_room(const telling *t, GString *to)
{
    if (is_near_swinging(t->d)) {
        try_calmest(t, to);
    }
}

/* A loop that is quicker than what comes from outside leaves less of it: more I where that is what fights it, else all.
 * As long as it is not known all gains grow a little, since the period that stays tells it. Where a model of the
 * stretch has it that the loop itself is near swinging, or limits cut it off, lesser gains tell first. */
void rgp_rule_quicker(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const bool bears = is_outside(t->d) || (has_model(t) && t->d->sign.grow > log(QUICKER));
    if (is_doubtful(t->d) && is_cut_off(t->d)) {
        rgp_rule_apart(t, to);
    } else if (is_doubtful(t->d)) {
        try_calmest(t, to);
    } else if (bears && g->ki > 0.0f && t->d->model.kind != RGP_PROCESS_INTEGRAL && !is_mostly_i(t)) {
        rgp_trial_put_gain(to, t->names, 1, QUICKER * (double)g->ki);
    } else {
        const bool is_calm_by_model = has_model(t) && t->d->sign.sensitivity < log(RGP_SENSITIVE);
        all_times(t, bears ? MUCH_MORE : is_calm_by_model ? MORE : A_LITTLE, to);
    }
}

/* Seconds, of what swings, or of what would by the model if the gains grew; NAN: that is not known. */
static double period_of(const telling *t)
{
    if (isfinite(t->d->period) || !has_model(t)) {
        return t->d->period;
    }
    const rgp_stand on = rgp_stand_of(&t->d->model, t->run->predict, t->d->step);
    const rgp_margins m = rgp_stand_margins(&on, &t->run->pid->gain);
    return m.stable && isfinite(m.up) ? m.swing : (double)NAN;
}

/* Without a model nobody knows whether there is room for what leads: less P calms for sure. */
void rgp_rule_more_d(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const double period = period_of(t), kd = (double)g->kp * tan(LEAD_OF_D * G_PI / 2.0) * period / (2.0 * G_PI);
    if (!has_model(t)) {
        put_p_and_d(t, LESS, to);
        return;
    }
    if (!isfinite(kd)) {
        rgp_rule_less(t, to);
        return;
    }
    rgp_trial_put_gain(to, t->names, 2, fmax(MORE * (double)g->kd, kd));
    if (g->filter <= 0.0f) {
        rgp_trial_put(to, "filter", fmax(t->d->step, kd / (double)g->kp / 8.0), " s");
    }
}

/* A swing at which the integral lags by that much is not ended by less D. */
static void put_less_d(const telling *t, GString *to)
{
    if (is_mostly_i(t)) {
        rgp_rule_less_i(t, to);
    } else {
        rgp_trial_put_gain(to, t->names, 2, MUCH_LESS * (double)t->run->pid->gain.kd);
    }
}

/* Without any model P goes with it, since less D alone may leave too much of that. */
void rgp_rule_less_d(const telling *t, GString *to)
{
    if (t->d->explained > 0.0 || is_mostly_i(t)) {
        put_less_d(t, to);
    } else {
        put_p_and_d(t, MUCH_LESS, to);
    }
}

/* A longer filter lags more: of a loop that may not be stable, or whose filter would leave little of the derivative,
 * that is made less instead; a little, where there is a filter and no model. */
void rgp_rule_filter(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const double most = (double)g->kd / fmax((double)g->kp, G_MINDOUBLE) / LEAST_OF_D,
                 filter = fmin(fmax(3.0 * (double)g->filter, 3.0 * t->d->step), most);
    if (!(t->d->explained > HALF_EXPLAINED) && g->filter > (float)t->d->step) {
        rgp_trial_put_gain(to, t->names, 2, LESS * (double)g->kd);
    } else if ((t->d->explained > 0.0 && !is_stable(t->d)) || filter < fmax(MORE * (double)g->filter, t->d->step)) {
        put_less_d(t, to);
    } else {
        rgp_trial_put(to, "filter", filter, " s");
    }
}

/* It shows whether the swing stays as large, which one that the gains make does not. Where a model makes all of what
 * moved, and has room for more, lesser gains would only cost. */
void rgp_rule_apart(const telling *t, GString *to)
{
    const bool has_room = knows_all(t) && is_stable(t->d) && t->d->sign.grow > log(ROOM * MORE);
    all_times(t, has_room ? MORE : LESS, to);
}

/* A wider one hardly quiets the output more, and leaves it off by more. */
void rgp_rule_deadband(const telling *t, GString *to)
{
    if (t->d->swing > 0.0) {
        rgp_trial_put_deadband(to, t->names, RESTS * t->d->swing);
    }
}
