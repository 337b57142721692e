/* Causes in words, one function each for the evidence. */
#include "diagnosis_falling.h"
#include "diagnosis_telling.h"

#include "stand.h"
#include "suggestion.h"

#include "explain/describe.h"

#define SOME_DEAD 0.2  /* of an answer: less, by a model of a sine, tells nothing of it */
#define NO_DEAD   0.05 /* of a step of the loop */
#define AS_IS     0.05 /* of a figure: less is the same */

static void put_amount(const telling *t, double amount, GString *to)
{
    g_string_append_printf(to, "%s%s%s", rgp_digits(amount, 2).text, *t->names->unit ? " " : "", t->names->unit);
}

static void put_swing(const telling *t, GString *to)
{
    if (isfinite(t->d->period) && t->d->swing < NEXT_TO_NOTHING * t->d->band) {
        g_string_append_printf(to, "it swings every %s s, less and less, to ±", rgp_digits(t->d->period, 2).text);
        put_amount(t, t->d->swing, to);
    } else if (isfinite(t->d->period)) {
        g_string_append_printf(to, "it swings every %s s by ±", rgp_digits(t->d->period, 2).text);
        put_amount(t, t->d->swing, to);
    } else {
        g_string_append(to, "it moves by ±");
        put_amount(t, t->d->swing, to);
    }
}

/* The margins of a loop with a 'predict' line are those of a dead time that it does not quite know. */
static void put_room(const telling *t, GString *to)
{
    const char *by = t->run->predict ? "; by a model of this stretch, with its dead time a fifth off, "
                                     : "; by a model of this stretch ";
    if (has_model(t) && t->d->sign.grow > log(HARDLY_ANY_ROOM)) {
        g_string_append_printf(to, "%sits gains could grow %s%s times before it swung on", by,
                               t->d->sign.grow < RGP_GROW_MOST ? "" : "more than ",
                               rgp_digits(exp(t->d->sign.grow), 2).text);
    } else if (has_model(t) && t->d->sign.grow > 0.0) {
        g_string_append_printf(to, "%sit all but swings on", by);
    } else if (has_model(t) && !is_stable(t->d)) {
        g_string_append_printf(to, "%sthese gains are not stable", by);
    }
}

/* Loads that all but all is explained with, each as a share of what can be driven. */
static void put_loads(const telling *t, GString *to)
{
    const rgp_process *m = &t->d->model;
    const double travel = (double)t->run->pid->high - (double)t->run->pid->low;
    for (size_t i = 0; knows_all(t) && i < m->loads; i++) {
        g_string_append(to, i > 0 ? ", " : m->loads > 1 ? "; loads came and stayed: " : "; a load came and stayed: ");
        g_string_append_printf(to, "about %+.2g %%%s at ", 100.0 * m->came[i].size.value / travel,
                               i == 0 ? " of the travel" : "");
        rgp_describe_span(t->d->model_begin + m->came[i].at.value, to);
    }
}

/* Of what falls without its loop both ends of its gains. */
static void put_falls(const telling *t, GString *to)
{
    const rgp_margins *m = &t->d->margins;
    if (!t->d->falls) {
        return;
    }
    g_string_append_printf(to, "; by a model of this stretch it falls by e in %s s without its loop",
                           rgp_digits(t->d->model.lag.value, 2).text);
    if (t->d->first == RGP_CAUSE_SIGN) {
        return;
    }
    if (m->stable) {
        g_string_append(to, ", and its gains could ");
        if (isfinite(m->up)) {
            g_string_append_printf(to, "grow %s times before it swung on, and ", rgp_digits(m->up, 2).text);
        }
        g_string_append_printf(to, "shrink to %s of themselves before it fell", rgp_digits(m->down, 2).text);
    } else {
        g_string_append(to, ", and these gains do not hold it up");
    }
}

/* ---- evidence --------------------------------------------------------------------------------------- */

/* An error that is left at the end is on its way where a model has it that the integral brings it back. */
static void put_left(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    put_amount(t, fabs(t->d->left), to);
    g_string_append(to, " are left at the end");
    if (has_model(t) && g->kp > 0.0f && g->ki > 0.0f) {
        g_string_append(to, ", and on their way: the integral time is ");
        rgp_describe_span((double)g->kp / (double)g->ki, to);
    }
}

static void say_healthy(const telling *t, GString *to)
{
    if (rgp_diagnosis_stays_off(t->d)) {
        put_left(t, to);
    } else {
        g_string_append(to, "it ends within ");
        put_amount(t, fabs(t->d->left) + t->d->swing, to);
    }
    if (t->d->sign.grow > 0.0) {
        put_room(t, to);
    }
    if (is_near_swinging(t->d) && t->d->sign.grow > log(HARDLY_ANY_ROOM)) {
        g_string_append(to, ", which is near");
    }
}

static void say_sign(const telling *t, GString *to)
{
    g_string_append_printf(to, "what it drives makes the error greater, and it %s",
                           t->d->falls ? "falls" : "ends at a limit");
}

static void say_weak(const telling *t, GString *to)
{
    g_string_append_printf(to, "for %.0f %% of its last quarter it drives all it has, and is off by more than ",
                           100.0 * t->d->sign.pinned);
    put_amount(t, t->d->band, to);
}

static void say_pace(const telling *t, GString *to)
{
    g_string_append_printf(to, "it steps every %s s", rgp_digits(t->d->step, 2).text);
    const double dead = t->d->model.dead.value;
    if (has_model(t) && dead < NO_DEAD * t->d->step) {
        g_string_append(to, ", and what it regulates has next to no dead time");
    } else if (has_model(t)) {
        g_string_append_printf(to, ", and what it regulates has a dead time of %s s", rgp_digits(dead, 2).text);
    }
    g_string_append(to, "; ");
    put_swing(t, to);
}

static void say_outside(const telling *t, GString *to)
{
    put_swing(t, to);
    g_string_append(to, rgp_diagnosis_led(t->d) ? ", and its setpoint swings with that period"
                        : is_doubtful(t->d)     ? ", as a sine"
                                                : ", as a sine, which nothing in the loop explains");
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
    if (t->d->swing <= 0.0) {
        g_string_append(to, "at the end it moves by less than a step of its reading");
        return;
    }
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
    if (rgp_diagnosis_let_go(t->d, t->run)) {
        g_string_append(to, "it goes off to the end, so there is not enough to hold it");
    } else {
        g_string_append(to, "it comes back slowly, from one side");
    }
    put_room(t, to);
}

static void put_lag_of_i(const telling *t, GString *to)
{
    g_string_append_printf(to, ", at which the integral lags by %.0f deg", 90.0 * t->d->sign.lag_of_i);
}

static void say_i_much(const telling *t, GString *to)
{
    put_swing(t, to);
    if (isfinite(t->d->period)) {
        put_lag_of_i(t, to);
    }
    if (lacks_p(t)) {
        g_string_append(to, ", beside little P");
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
    if (t->d->swing < t->d->band) { /* it does not swing yet */
        put_room(t, to);
    }
    g_string_append_printf(to, ", and the derivative leads by %.0f deg, too little for so much P",
                           90.0 * t->d->sign.lead_of_d);
}

static void say_d_much(const telling *t, GString *to)
{
    put_swing(t, to);
    if (is_mostly_i(t)) {
        put_lag_of_i(t, to);
        g_string_append(to, ", so less of that comes first");
    }
    g_string_append_printf(to, "; the derivative makes %.0f %% of the way of the output", 100.0 * t->d->sign.of_d);
}

static bool is_far_off(double share)
{
    return share > 1.0 + AS_IS || share < 1.0 - AS_IS;
}

static void put_share(GString *to, const char **sep, const char *of, double share)
{
    if (is_far_off(share)) {
        g_string_append_printf(to, "%s%s %s of the line's", *sep, of, rgp_digits(share, 2).text);
        *sep = ", ";
    }
}

/* Of a line that does not fit: that of the model beside it, where it is another one. A swing that is quicker than the
 * lag tells nothing of gain and lag but their quotient. */
static void put_misses(const telling *t, GString *to)
{
    const rgp_predict_config *line = t->run->predict;
    const rgp_plant plant = rgp_process_plant(&t->d->model);
    const rgp_ahead is = rgp_plant_line(&plant, (double)line->lag);
    const double gain = is.gain / (double)line->gain, lag = is.lag / (double)line->lag;
    const char *sep = ": ";
    g_string_append(to, "; by a model of this stretch its 'predict' line misses");
    if (!has_sign_of_line(t)) {
        return;
    }
    if (is_far_off(is.dead / fmax((double)line->dead, G_MINDOUBLE))) {
        g_string_append_printf(to, "%sthe dead time is %s s, not %.4g s", sep, rgp_digits(is.dead, 2).text,
                               (double)line->dead);
        sep = ", ";
    }
    if (t->d->period > 0.0 && is.lag > t->d->period) {
        put_share(to, &sep, "the gain over the lag", gain / lag);
        return;
    }
    put_share(to, &sep, "the gain", gain);
    if (!rgp_process_goes_on(plant.kind)) {
        put_share(to, &sep, "the lag", lag);
    }
}

static void say_dead(const telling *t, GString *to)
{
    put_swing(t, to);
    if (t->run->predict) {
        put_misses(t, to);
    } else if (has_model(t) && t->d->sign.late > SOME_DEAD) {
        g_string_append_printf(to, "; of its answer %.0f %% is dead time", 100.0 * t->d->sign.late);
    }
}

/* ---- all of it -------------------------------------------------------------------------------------- */

static const struct {
    void (*say)(const telling *t, GString *to);
    const char *remedy;
} causes[RGP_CAUSES] = {
    [RGP_CAUSE_HEALTHY] = {say_healthy, NULL},
    [RGP_CAUSE_SIGN] = {say_sign, "turn the sign: 'reverse' in the loop where it has none, or without it"},
    [RGP_CAUSE_WEAK] = {say_weak, "no gain helps: a stronger actuator, a lesser load or a nearer setpoint"},
    [RGP_CAUSE_PACE] = {say_pace, "a shorter tick, or a quicker sensor, lets it be quicker"},
    [RGP_CAUSE_OUTSIDE] = {say_outside, "look for what moves it with that period; a quicker loop leaves less of it"},
    [RGP_CAUSE_FRICTION] = {say_friction, "if the swing stays as large with other gains, free what sticks; a dead "
                                          "band of the swing stops the hunting"},
    [RGP_CAUSE_PLAY] = {say_play, "if the swing stays as large with other gains, take out the play; a dead band of "
                                  "the swing stops the hunting"},
    [RGP_CAUSE_COUNTS] = {say_counts,
                          "a finer sensor; a dead band moves the output less, and leaves an error of as much"},
    [RGP_CAUSE_NOISE] = {say_noise, NULL},
    [RGP_CAUSE_P_MUCH] = {say_p_much, NULL},
    [RGP_CAUSE_P_LITTLE] = {say_p_little, NULL},
    [RGP_CAUSE_I_MUCH] = {say_i_much, NULL},
    [RGP_CAUSE_I_LITTLE] = {say_i_little, NULL},
    [RGP_CAUSE_D_MISSING] = {say_d_missing, NULL},
    [RGP_CAUSE_D_MUCH] = {say_d_much, NULL},
    [RGP_CAUSE_DEAD] = {say_dead, "a 'predict' line with its model lets it be quicker: 'rigpulse model' finds one"},
};

/* Of what falls: the change that goes with a cause, and by how much less sensitive it would be with that. False: the
 * cause is not one of its gains. */
static bool say_falling(const telling *t, GString *to)
{
    static const char *const with[RGP_CAUSES] = {
        [RGP_CAUSE_P_MUCH] = "less P", [RGP_CAUSE_P_LITTLE] = "more P",
        [RGP_CAUSE_I_MUCH] = "less I", [RGP_CAUSE_D_MISSING] = "more D, or a shorter filter,",
        [RGP_CAUSE_D_MUCH] = "less D",
    };
    const rgp_cause cause = t->d->first;
    if (!t->d->falls || !with[cause]) {
        return false;
    }
    rgp_pid_gains other;
    const double times = diagnosis_falling_move(t->d, t->run, cause, &other);
    put_swing(t, to);
    if (times > 1.0) {
        g_string_append_printf(to, ", and with %s it would be %s times less sensitive", with[cause],
                               rgp_digits(times, 2).text);
    }
    return true;
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
    if (!say_falling(&t, to)) {
        causes[d->first].say(&t, to);
    }
    put_falls(&t, to);
    put_loads(&t, to);
}

void rgp_diagnosis_foretell(double foreseen, GString *to)
{
    if (isfinite(foreseen)) {
        g_string_append_printf(
            to, "with what is next this stretch would have had at most %.0f %% of its error, by its model",
            ceil(100.0 * foreseen));
    }
}

const char *rgp_diagnosis_remedy(const rgp_diagnosis *d)
{
    if (d->first == RGP_CAUSE_OUTSIDE && rgp_diagnosis_led(d)) {
        return "a quicker loop follows its setpoint closer, and so does one with 'feed', which drives at once what a "
               "setpoint needs";
    }
    if (d->first == RGP_CAUSE_OUTSIDE && is_doubtful(d)) {
        return "look for what moves it with that period; lesser gains leave such a swing as it is, and one that "
               "the loop makes less of";
    }
    if (d->first == RGP_CAUSE_DEAD && d->sign.misses > 0.0) {
        return "'rigpulse model FILE LOOP --from RECORDING' has the figures for its 'predict' line";
    }
    if (d->first == RGP_CAUSE_OUTSIDE && d->explained > EXPLAINED && d->sign.grow < log(ROOM)) {
        return "look for what moves it with that period: these gains could not grow much";
    }
    return rgp_diagnosis_divided(d) ? NULL : causes[d->first].remedy;
}
