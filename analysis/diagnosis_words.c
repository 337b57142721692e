/* Causes in words, one function each for the evidence and for the trial. */
#include "diagnosis_words.h"

#include "margins.h"
#include "suggestion.h"

#include "explain/describe.h"

#include <math.h>

#define DIVIDED         2.0 /* times as likely: else both are told */
#define LESS            0.7 /* of the gains, for a trial */
#define MORE            1.4
#define MUCH_LESS       0.5
#define LEAST_I         0.4 /* of the integral gain, in one trial */
#define MUCH_MORE       2.0
#define MOST_MORE       4.0
#define QUICKER         3.0
#define CERTAIN         0.999 /* as trials before have shown */

#define NEXT_TO_NOTHING 0.5  /* of the band */
#define MOSTLY_I        0.7  /* quarter turns: the integral does most of it already */
#define ROOM            2.0  /* by which gains are to be able to grow */
#define USUAL_ROOM      3.2  /* by which they are, tuned by the rule for a time constant like the dead time */
#define MUCH_ROOM       4.0  /* a healthy loop could be quicker */
#define SLOW_I          0.3  /* of what the rule has for such a kp */
#define ROOM_FOR_I      1.5  /* by which gains have to be able to grow, that more I is safe */
#define LAG_OF_I        0.22 /* quarter turns, 20 degrees */
#define LEAD_OF_D       0.33 /* 30 degrees */
#define EXPLAINED       0.7  /* of what moved: a model that is to be built on */
#define WELL_EXPLAINED  0.9
#define HALF_EXPLAINED  0.5 /* by a model that may be right */
#define UNSTABLE        2.5 /* the sign `sensitivity` of a loop that its model has not stable */
#define SENSITIVE       2.5 /* the greatest sensitivity: half as much is usual */

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
    return t->d->sign.explained > EXPLAINED;
}

/* By its model. */
static bool is_stable(const rgp_diagnosis *d)
{
    return d->sign.sensitivity < UNSTABLE;
}

static void put_room(const telling *t, GString *to)
{
    if (has_model(t) && t->d->sign.grow > 0.0) {
        g_string_append_printf(to, "; by a model of this stretch its gains could grow %.2g times before it swung on",
                               exp(t->d->sign.grow));
    } else if (has_model(t) && !is_stable(t->d)) {
        g_string_append(to, "; by a model of this stretch these gains are not stable");
    }
}

/* ---- evidence --------------------------------------------------------------------------------------- */

/* By a model, beside its P the integral does little. */
static bool has_slow_i(const telling *t)
{
    return has_model(t) && t->d->sign.ki_off < t->d->sign.kp_off + log(SLOW_I);
}

static bool is_calm(const telling *t)
{
    return isnan(t->d->period) || t->d->swing < NEXT_TO_NOTHING * t->d->band;
}

static bool wants_i(const telling *t)
{
    return has_slow_i(t) && is_calm(t) && t->run->pid->gain.ki > 0.0f && t->d->sign.grow > log(ROOM_FOR_I);
}

static bool could_be_quicker(const telling *t)
{
    return wants_i(t) || (has_model(t) && is_calm(t) && t->d->sign.grow > log(MUCH_ROOM));
}

static bool is_near_swinging(const rgp_diagnosis *d)
{
    return is_stable(d) && d->sign.explained > WELL_EXPLAINED && d->sign.sensitivity > log(SENSITIVE);
}

static void say_healthy(const telling *t, GString *to)
{
    g_string_append(to, "it ends within ");
    put_amount(t, fabs(t->d->left) + t->d->swing, to);
    if (is_stable(t->d)) {
        put_room(t, to);
    }
    g_string_append(to, is_near_swinging(t->d) ? ", which is near"
                        : wants_i(t)           ? ", and its integral could do more"
                        : could_be_quicker(t)  ? ", so it could be quicker"
                                               : "");
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

/* An integral that does little stays. */
static void try_less(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const double by = calmer(t);
    if (has_slow_i(t)) {
        rgp_trial_put(to, t->names->gain[0], by * (double)g->kp, "");
        if (g->kd > 0.0f) {
            rgp_trial_put(to, t->names->gain[2], by * (double)g->kd, "");
        }
    } else {
        all_times(t, by, to);
    }
}

/* As a model has it, or a step that is not too great. */
static void try_more(const telling *t, GString *to)
{
    const double room = has_model(t) ? exp(t->d->sign.grow) / USUAL_ROOM : 0.0,
                 step = t->d->beyond > 0.5 ? MUCH_MORE : MORE;
    all_times(t, fmin(fmax(room, step), MOST_MORE), to);
}

static void try_less_i(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const double w = isfinite(t->d->period) ? 2.0 * G_PI / t->d->period : 0.0,
                 ki = (double)g->kp * w * tan(LAG_OF_I * G_PI / 2.0);
    rgp_trial_put(to, t->names->gain[1],
                  w > 0.0 ? fmin(LESS * (double)g->ki, fmax(ki, LEAST_I * (double)g->ki)) : MUCH_LESS * (double)g->ki,
                  "");
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

/* Lesser gains, of all, of P and D, or of I, whichever leave the loop least sensitive by the model; an integral that
 * does little stays. */
static void try_calmest(const telling *t, GString *to)
{
    static const double by[][3] = {{LESS, LESS, LESS}, {LESS, 1.0, LESS}, {1.0, MUCH_LESS, 1.0}};
    const rgp_pid_gains *g = &t->run->pid->gain;
    rgp_plant plant = rgp_process_plant(&t->d->model);
    const size_t first = has_slow_i(t) ? 1 : 0, end = has_slow_i(t) ? 2 : G_N_ELEMENTS(by);
    size_t calmest = first;
    double least = INFINITY;
    plant.gain = fabs(plant.gain);
    for (size_t i = first; i < end; i++) {
        rgp_pid_gains other = *g;
        other.kp *= (float)by[i][0];
        other.ki *= (float)by[i][1];
        other.kd *= (float)by[i][2];
        const rgp_margins m = rgp_margins_of(&plant, &other, t->d->step);
        calmest = m.stable && m.sensitivity < least ? i : calmest;
        least = m.stable ? fmin(least, m.sensitivity) : least;
    }
    const double value[3] = {(double)g->kp, (double)g->ki, (double)g->kd};
    for (int i = 0; i < 3; i++) {
        if (by[calmest][i] < 1.0 && value[i] > 0.0) {
            rgp_trial_put(to, t->names->gain[i], by[calmest][i] * value[i], "");
        }
    }
}

/* A healthy loop with little room, or much; mostly it is the integral that lags behind. */
static void try_room(const telling *t, GString *to)
{
    if (is_near_swinging(t->d)) {
        try_calmest(t, to);
    } else if (wants_i(t)) {
        try_more_i(t, to);
    } else if (could_be_quicker(t)) {
        all_times(t, fmin(exp(t->d->sign.grow) / USUAL_ROOM, MUCH_MORE), to);
    }
}

static bool is_outside(const rgp_diagnosis *d)
{
    return d->chance[RGP_CAUSE_OUTSIDE] >= CERTAIN;
}

/* A model has it that the loop itself is near swinging. */
static bool is_doubtful(const rgp_diagnosis *d)
{
    return !is_outside(d) && d->sign.explained > HALF_EXPLAINED && d->sign.sensitivity > log(SENSITIVE);
}

/* A loop that is quicker than what comes from outside leaves less of it: more I where that is what fights it, else all.
 * As long as it is not known all gains grow a little, since the period that stays tells it. Where a model of the
 * stretch has it that the loop itself is near swinging, lesser gains tell first. */
static void try_quicker(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const bool bears = is_outside(t->d) || (has_model(t) && t->d->sign.grow > log(QUICKER));
    if (is_doubtful(t->d)) {
        try_calmest(t, to);
    } else if (bears && g->ki > 0.0f && t->d->model.kind != RGP_PROCESS_INTEGRAL && t->d->sign.lag_of_i < MOSTLY_I) {
        rgp_trial_put(to, t->names->gain[1], QUICKER * (double)g->ki, "");
    } else {
        all_times(t, bears ? MUCH_MORE : MORE, to);
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
    [RGP_CAUSE_HEALTHY] = {say_healthy, try_room, NULL},
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

static bool is_divided_in_parts(const rgp_diagnosis *d)
{
    return rgp_diagnosis_divided(d) && causes[d->first].parted && causes[d->second].parted;
}

bool rgp_diagnosis_parts(const rgp_diagnosis *d)
{
    return is_divided_in_parts(d) || causes[d->first].try == try_apart ||
           (d->first == RGP_CAUSE_OUTSIDE && is_doubtful(d)) || (d->first == RGP_CAUSE_HEALTHY && is_near_swinging(d));
}

char *rgp_diagnosis_trial(const rgp_loop_run *run, const rgp_diagnosis *d, const rgp_trial_names *names)
{
    const telling t = {run, d, names};
    GString *to = g_string_new(NULL);
    if (is_divided_in_parts(d)) {
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
    if (d->first == RGP_CAUSE_OUTSIDE && is_doubtful(d)) {
        return "look for what moves it with that period; lesser gains leave such a swing as it is, and one that the "
               "loop "
               "makes less of";
    }
    return rgp_diagnosis_divided(d) ? NULL : causes[d->first].remedy;
}
