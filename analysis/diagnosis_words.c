/* Causes in words, one function each for the evidence and for the trial. */
#include "diagnosis_words.h"

#include "explain/describe.h"

#include <math.h>

#define DIVIDED         2.0 /* times as likely: else both are told */
#define LESS            0.7 /* of the gains, for a trial */
#define MORE            1.4
#define MUCH_LESS       0.5
#define MUCH_MORE       2.0
#define QUICKER         3.0
#define SURE            0.9
#define CERTAIN         0.999 /* as trials before have shown */

#define NEXT_TO_NOTHING 0.5  /* of the band */
#define MOSTLY_I        0.7  /* quarter turns: the integral does most of it already */
#define ROOM            2.0  /* by which gains are to be able to grow */
#define LAG_OF_I        0.22 /* quarter turns, 20 degrees */
#define LEAD_OF_D       0.33 /* 30 degrees */
#define EXPLAINED       0.7  /* of what moved: a model that is to be built on */

typedef struct telling {
    const rgp_loop_run *run;
    const rgp_diagnosis *d;
    const rgp_trial_names *names;
} telling;

static double whole(const telling *t)
{
    return t->d->length;
}

static void put_amount(const telling *t, double amount, GString *to)
{
    g_string_append_printf(to, "%.2g%s%s", amount, *t->names->unit ? " " : "", t->names->unit);
}

static void put_swing(const telling *t, GString *to)
{
    if (isfinite(t->d->period) && t->d->swing < NEXT_TO_NOTHING * t->d->band) {
        g_string_append_printf(to, "it swings every %.2g s, less and less, to ±", t->d->period);
        put_amount(t, t->d->swing, to);
    } else if (isfinite(t->d->period)) {
        g_string_append_printf(to, "it swings every %.2g s by ±", t->d->period);
        put_amount(t, t->d->swing, to);
    } else {
        g_string_append(to, "it moves by ±");
        put_amount(t, t->d->swing, to);
    }
}

static bool has_model(const telling *t)
{
    return t->d->model.fitted && t->d->sign.explained > EXPLAINED;
}

static void put_room(const telling *t, GString *to)
{
    if (has_model(t) && t->d->sign.grow > 0.0) {
        g_string_append_printf(to, "; by a model of this stretch its gains could grow %.2g times before it swung on",
                               exp(t->d->sign.grow));
    } else if (has_model(t) && t->d->sign.sensitivity >= 2.5) {
        g_string_append(to, "; by a model of this stretch these gains are not stable");
    }
}

/* ---- evidence --------------------------------------------------------------------------------------- */

static void say_healthy(const telling *t, GString *to)
{
    g_string_append(to, "it ends within ");
    put_amount(t, fabs(t->d->left) + t->d->swing, to);
    put_room(t, to);
}

static void say_sign(const telling *t, GString *to)
{
    (void)t;
    g_string_append(to, "what it drives makes the error greater, and it ends at a limit");
}

static void say_weak(const telling *t, GString *to)
{
    g_string_append_printf(to, "for %.0f %% of its last quarter it drives all it has, and is off by more than ",
                           100.0 * t->d->sign.pinned);
    put_amount(t, t->d->band, to);
}

static void say_pace(const telling *t, GString *to)
{
    g_string_append_printf(to, "it steps every %.2g s", t->d->step);
    if (has_model(t)) {
        g_string_append_printf(to, ", and what it regulates has a dead time of %.2g s", t->d->model.dead.value);
    }
    g_string_append(to, "; ");
    put_swing(t, to);
}

static void say_outside(const telling *t, GString *to)
{
    put_swing(t, to);
    g_string_append(to, ", as a sine, which nothing in the loop explains");
    if (t->d->sign.grow > 0.0) {
        put_room(t, to);
    }
}

static void say_friction(const telling *t, GString *to)
{
    put_swing(t, to);
    g_string_append_printf(to, ", and stands still for %.0f %% of a swing while the output goes on",
                           100.0 * t->d->sign.rests);
}

static void say_play(const telling *t, GString *to)
{
    put_swing(t, to);
    g_string_append(to, ", since at each turn the output goes some way before anything moves");
    put_room(t, to);
}

static void say_counts(const telling *t, GString *to)
{
    put_swing(t, to);
    g_string_append_printf(to, ", which is %.1f steps of a reading", exp(t->d->sign.counts) / 2.0);
}

static void say_noise(const telling *t, GString *to)
{
    g_string_append_printf(to, "the derivative makes %.0f %% of the way of the output out of the noise of readings",
                           100.0 * t->d->sign.of_d);
}

static void say_p_much(const telling *t, GString *to)
{
    put_swing(t, to);
    put_room(t, to);
}

static void say_p_little(const telling *t, GString *to)
{
    g_string_append(to, "it comes back slowly, from one side");
    put_room(t, to);
}

static void say_i_much(const telling *t, GString *to)
{
    put_swing(t, to);
    if (isfinite(t->d->period)) {
        g_string_append_printf(to, ", at which the integral lags by %.0f deg", 90.0 * t->d->sign.lag_of_i);
    }
}

static void say_i_little(const telling *t, GString *to)
{
    g_string_append(to, "it stays off by ");
    put_amount(t, fabs(t->d->left), to);
    g_string_append(to, t->run->pid->gain.ki > 0.0f ? " at the end, and the integral hardly moves it"
                                                    : ", and has no integral");
}

static void say_d_missing(const telling *t, GString *to)
{
    put_swing(t, to);
    g_string_append_printf(to, ", and the derivative leads by %.0f deg only", 90.0 * t->d->sign.lead_of_d);
}

static void say_d_much(const telling *t, GString *to)
{
    put_swing(t, to);
    g_string_append_printf(to, "; the derivative makes %.0f %% of the way of the output", 100.0 * t->d->sign.of_d);
}

static void say_dead(const telling *t, GString *to)
{
    put_swing(t, to);
    if (has_model(t)) {
        g_string_append_printf(to, "; of its answer %.0f %% is dead time", 100.0 * t->d->sign.late);
    }
}

/* ---- trials ----------------------------------------------------------------------------------------- */

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

static void try_less(const telling *t, GString *to)
{
    all_times(t, calmer(t), to);
}

static void try_more(const telling *t, GString *to)
{
    const bool room = has_model(t) && t->d->sign.grow > log(2.0 * ROOM);
    all_times(t, room || t->d->beyond > 0.5 ? MUCH_MORE : MORE, to);
}

static void try_less_i(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const double w = isfinite(t->d->period) ? 2.0 * G_PI / t->d->period : 0.0,
                 ki = (double)g->kp * w * tan(LAG_OF_I * G_PI / 2.0);
    rgp_trial_put(to, t->names->gain[1],
                  w > 0.0 ? fmin(LESS * (double)g->ki, fmax(ki, 0.2 * (double)g->ki)) : MUCH_LESS * (double)g->ki, "");
}

/* Towards an integral time of the rule, in steps that are not too great. */
static void try_more_i(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const rgp_process *m = &t->d->model;
    const double dead = m->dead.value + m->second + t->d->step,
                 rule = !has_model(t)                     ? 0.0
                        : m->kind == RGP_PROCESS_INTEGRAL ? 8.0 * dead
                                                          : fmin(m->lag.value, 8.0 * dead),
                 ki = (double)g->kp / fmax(rule, whole(t) / 15.0);
    rgp_trial_put(to, t->names->gain[1], g->ki > 0.0f ? fmax(MORE * (double)g->ki, fmin(ki, 4.0 * (double)g->ki)) : ki,
                  "");
}

/* A loop that is quicker than what comes from outside leaves less of it: more I where that is what fights it, else all.
 * Where a model of the stretch has it that the loop swings by itself, lesser gains tell first. */
static void try_quicker(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const bool known = t->d->chance[RGP_CAUSE_OUTSIDE] >= CERTAIN,
               roomy = has_model(t) && t->d->sign.grow > log(QUICKER);
    if (t->d->chance[RGP_CAUSE_OUTSIDE] < SURE && has_model(t) && t->d->sign.grow < log(MORE)) {
        all_times(t, LESS, to);
    } else if (g->ki > 0.0f && t->d->model.kind != RGP_PROCESS_INTEGRAL && t->d->sign.lag_of_i < MOSTLY_I) {
        rgp_trial_put(to, t->names->gain[1], (known || roomy ? QUICKER : MORE) * (double)g->ki, "");
    } else {
        all_times(t, known || roomy ? MUCH_MORE : MORE, to);
    }
}

static void try_more_d(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const double w = isfinite(t->d->period) ? 2.0 * G_PI / t->d->period : 1.0 / (4.0 * t->d->step),
                 kd = (double)g->kp * tan(LEAD_OF_D * G_PI / 2.0) / w;
    rgp_trial_put(to, t->names->gain[2], fmax(MORE * (double)g->kd, kd), "");
    if (g->filter <= 0.0f) {
        rgp_trial_put(to, "filter", fmax(t->d->step, kd / (double)g->kp / 8.0), " s");
    }
}

static void try_less_d(const telling *t, GString *to)
{
    rgp_trial_put(to, t->names->gain[2], MUCH_LESS * (double)t->run->pid->gain.kd, "");
}

static void try_filter(const telling *t, GString *to)
{
    rgp_trial_put(to, "filter", fmax(3.0 * (double)t->run->pid->gain.filter, 3.0 * t->d->step), " s");
}

/* It shows whether the swing stays as large, which one that the gains make does not. */
static void try_apart(const telling *t, GString *to)
{
    all_times(t, LESS, to);
}

static void try_deadband(const telling *t, GString *to)
{
    g_autofree char *unit = g_strdup_printf("%s%s", *t->names->unit ? " " : "", t->names->unit);
    rgp_trial_put(to, "deadband", 1.2 * t->d->swing, unit);
}

/* ---- all of it -------------------------------------------------------------------------------------- */

static const struct {
    void (*say)(const telling *t, GString *to);
    void (*try)(const telling *t, GString *to); /* NULL: no trial of gains */
    const char *remedy;
    bool parted; /* what swings so does as it did with lesser gains, or does not: that tells it from others of these */
} causes[RGP_CAUSES] = {
    [RGP_CAUSE_HEALTHY] = {say_healthy, NULL, NULL},
    [RGP_CAUSE_SIGN] = {say_sign, NULL, "turn the sign: 'reverse' in the loop where it has none, or without it"},
    [RGP_CAUSE_WEAK] = {say_weak, NULL, "no gain helps: a stronger actuator, a lesser load or a nearer setpoint"},
    [RGP_CAUSE_PACE] = {say_pace, try_less, "a shorter tick, or a quicker sensor, lets it be quicker"},
    [RGP_CAUSE_OUTSIDE] = {say_outside, try_quicker,
                           "look for what moves it with that period; a quicker loop leaves less of it", true},
    [RGP_CAUSE_FRICTION] =
        {say_friction, try_apart,
         "if the swing stays as large with lesser gains, free what sticks; a dead band of the swing stops the hunting",
         true},
    [RGP_CAUSE_PLAY] =
        {say_play, try_apart,
         "if the swing stays as large with lesser gains, take out the play; a dead band of the swing stops the hunting",
         true},
    [RGP_CAUSE_COUNTS] = {say_counts, try_deadband, "a finer sensor, or a dead band of a step", true},
    [RGP_CAUSE_NOISE] = {say_noise, try_filter, NULL},
    [RGP_CAUSE_P_MUCH] = {say_p_much, try_less, NULL, true},
    [RGP_CAUSE_P_LITTLE] = {say_p_little, try_more, NULL},
    [RGP_CAUSE_I_MUCH] = {say_i_much, try_less_i, NULL},
    [RGP_CAUSE_I_LITTLE] = {say_i_little, try_more_i, NULL},
    [RGP_CAUSE_D_MISSING] = {say_d_missing, try_more_d, NULL},
    [RGP_CAUSE_D_MUCH] = {say_d_much, try_less_d, NULL},
    [RGP_CAUSE_DEAD] = {say_dead, try_less,
                        "a 'predict' line with its model lets it be quicker: 'rigpulse model' finds one", true},
};

bool rgp_diagnosis_divided(const rgp_diagnosis *d)
{
    return d->chance[d->first] < DIVIDED * d->chance[d->second];
}

void rgp_diagnosis_say(const rgp_loop_run *run, const rgp_diagnosis *d, const rgp_trial_names *names, GString *to)
{
    const telling t = {run, d, names};
    const char *word = rgp_diagnosis_word(d->chance[d->first]);
    if (!word || rgp_diagnosis_divided(d)) {
        g_string_append_printf(to, "%s or %s, which this stretch does not tell apart: ", rgp_cause_words[d->first],
                               rgp_cause_words[d->second]);
    } else {
        g_string_append_printf(to, "%s %s: ", word, rgp_cause_words[d->first]);
    }
    causes[d->first].say(&t, to);
}

char *rgp_diagnosis_trial(const rgp_loop_run *run, const rgp_diagnosis *d, const rgp_trial_names *names)
{
    const telling t = {run, d, names};
    GString *to = g_string_new(NULL);
    if (rgp_diagnosis_divided(d) && causes[d->first].parted && causes[d->second].parted) {
        all_times(&t, LESS, to);
    } else if (causes[d->first].try) {
        causes[d->first].try(&t, to);
    } else if (rgp_diagnosis_divided(d) && d->first == RGP_CAUSE_HEALTHY && causes[d->second].try) {
        causes[d->second].try(&t, to);
    }
    return g_string_free(to, to->len == 0);
}

const char *rgp_diagnosis_remedy(const rgp_diagnosis *d)
{
    return rgp_diagnosis_divided(d) ? NULL : causes[d->first].remedy;
}
