/* The next trial for a cause: by a model of the stretch where there is one that bears it, else by a rule of thumb. */
#include "diagnosis_falling.h"
#include "diagnosis_leap.h"
#include "diagnosis_moves.h"
#include "diagnosis_rules.h"

#include "foresight.h"
#include "margins.h"
#include "suggestion.h"

#define DIVIDED        2.0 /* times as likely: else both are told */

#define BETTER_AT_ALL  0.97 /* of the error of lesser steps */
#define BETTER         0.97 /* of the error of now, or it is not tried */
#define FAR_BETTER     0.8  /* or a healthy loop is left in peace */
#define NOW_AND_THEN   0.1  /* of the time */
#define RESTLESS       0.05 /* of its travel the output may go in a step */
#define QUIETER        1.1  /* that a quieter output may cost */
#define QUIET          0.85 /* of its way of now */
#define LESS_SENSITIVE 1.1  /* times: a change of what falls makes it that at least */
#define MORE_RESTLESS  1.5  /* or so much more than now */

/* ---- by cause --------------------------------------------------------------------------------------- */

/* A rule of thumb that makes quicker is held against the model. One that calms is not, since a swing that the model
 * does not make counts there as one from outside; but less D, or a longer filter, may calm or not, so it is. */
#define QUICK          1.0
#define CALM           INFINITY

static const struct {
    rgp_rule *rule; /* NULL: no trial of gains */
    bool parted;    /* what swings so does as it did with lesser gains, or not: that tells it from others of these */
    bool margins;   /* a loop that its model has swinging is calmed by the margins of that model */
    unsigned moves; /* among which a model may choose; 0: it has no say */
    double better, most; /* foreseen error, in that of now: of its choice, and of the rule of thumb, at most */
} causes[RGP_CAUSES] = {
    [RGP_CAUSE_HEALTHY] = {rgp_rule_room, false, false, ANY, FAR_BETTER, QUICK},
    [RGP_CAUSE_PACE] = {rgp_rule_slower, false, true, ALL_LESS | PD_LESS | P_LESS | I_LESS | D_LESS, BETTER, CALM},
    [RGP_CAUSE_OUTSIDE] = {rgp_rule_quicker, true, false, ANY, BETTER, QUICK},
    [RGP_CAUSE_FRICTION] = {rgp_rule_apart, true, false, 0, BETTER, CALM},
    [RGP_CAUSE_PLAY] = {rgp_rule_apart, true, false, 0, BETTER, CALM},
    [RGP_CAUSE_COUNTS] = {rgp_rule_deadband, true, false, 0, BETTER, CALM},
    [RGP_CAUSE_NOISE] = {rgp_rule_filter, false, false, ANY, BETTER, QUIETER},
    [RGP_CAUSE_P_MUCH] = {rgp_rule_less, true, true, ALL_LESS | PD_LESS | P_LESS | D_MORE, BETTER, CALM},
    [RGP_CAUSE_P_LITTLE] = {rgp_rule_more, false, false, ALL_MORE | PD_MORE | P_MORE, BETTER, QUICK},
    [RGP_CAUSE_I_MUCH] = {rgp_rule_less_i, false, true, I_LESS | PD_MORE | P_MORE | PD_MORE_I_LESS, BETTER, CALM},
    [RGP_CAUSE_I_LITTLE] = {rgp_rule_more_i, false, false, I_MORE | ALL_MORE | PD_LESS_I_MORE, BETTER, QUICK},
    [RGP_CAUSE_D_MISSING] = {rgp_rule_more_d, false, true, D_MORE | P_LESS | ALL_LESS, BETTER, CALM},
    [RGP_CAUSE_D_MUCH] = {rgp_rule_less_d, false, false, D_LESS | ALL_LESS, BETTER, QUIETER},
    [RGP_CAUSE_DEAD] = {rgp_rule_less, true, true, ALL_LESS | PD_LESS | P_LESS | I_LESS | D_LESS, BETTER, CALM},
};

/* ---- by a model ------------------------------------------------------------------------------------- */

/* From the least step on: a greater one has to be better by a little. */
static const double steps[] = {1.4, 2.0};

typedef struct choice {
    rgp_pid_gains gain;
    double error;
} choice;

typedef struct search {
    const telling *t;
    rgp_foresight *foresight;
    rgp_stand on;
    double sensitivity, way; /* that other gains may have */
    double stays;            /* the error with the gains of now */
    choice best;             /* those, where none is any better */
} search;

static double sensitivity_of(const search *s, const rgp_pid_gains *g)
{
    const rgp_margins m = rgp_stand_margins(&s->on, g);
    return m.stable ? m.sensitivity : INFINITY;
}

static void consider(search *s, const rgp_pid_gains *g)
{
    if (!rgp_is_moved(g, &s->t->run->pid->gain) || sensitivity_of(s, g) > s->sensitivity) {
        return;
    }
    const rgp_foreseen is = rgp_foresee(s->foresight, g);
    if (is.way <= s->way && is.error < BETTER_AT_ALL * s->best.error) {
        s->best = (choice){*g, is.error};
    }
}

/* Which has to be far better than the best move. */
static void consider_leap(search *s)
{
    const choice best = s->best;
    rgp_pid_gains leap;
    if (rgp_leap(s->t, &leap)) {
        s->best.error *= FAR_BETTER;
        consider(s, &leap);
        s->best = rgp_is_moved(&s->best.gain, &best.gain) ? s->best : best;
    }
}

static void begin_search(search *s, const telling *t)
{
    const rgp_pid_gains *now = &t->run->pid->gain;
    const rgp_plant plant = rgp_process_plant(&t->d->model);
    *s = (search){.t = t,
                  .foresight = rgp_foresight_of(t->run, &plant, t->d->step),
                  .on = rgp_stand_of(&t->d->model, t->run->predict, t->d->step)};
    const rgp_foreseen stays = rgp_foresee(s->foresight, now);
    const double is = sensitivity_of(s, now);
    s->stays = fmax(stays.error, 1e-300);
    s->best = (choice){*now, s->stays};
    s->way = t->d->first == RGP_CAUSE_NOISE ? QUIET * stays.way : fmax(RESTLESS, MORE_RESTLESS * stays.way);
    s->sensitivity = t->d->first == RGP_CAUSE_HEALTHY
                         ? RGP_SENSITIVE /* what is near swinging gets calmer gains or none */
                     : isfinite(is) ? fmax(is, RGP_SENSITIVE)
                                    : INFINITY;
}

/* Of the moves that a cause has, the one of which the model of the stretch has the least error. */
static void choose(search *s, unsigned moves)
{
    const rgp_pid_gains *now = &s->t->run->pid->gain;
    for (size_t k = 0; k < G_N_ELEMENTS(steps); k++) {
        for (uint32_t move = 0; move < RGP_MOVES; move++) {
            const rgp_pid_gains other = rgp_moved(now, move, steps[k]);
            if (moves >> move & 1u) {
                consider(s, &other);
            }
        }
    }
}

/* ---- all of it -------------------------------------------------------------------------------------- */

bool rgp_diagnosis_divided(const rgp_diagnosis *d)
{
    return d->chance[d->first] < DIVIDED * d->chance[d->second];
}

/* A swing that lesser gains leave as it is. */
static bool comes_from_elsewhere(rgp_cause cause)
{
    return causes[cause].parted && !causes[cause].margins;
}

/* Lesser gains tell the two apart; without a model that would say more, also one that comes from elsewhere from any
 * that the gains make. */
static bool is_divided_in_parts(const rgp_diagnosis *d)
{
    const rgp_cause a = d->first, b = d->second;
    const bool own_or_not = d->explained < HALF_EXPLAINED && comes_from_elsewhere(a) && causes[b].margins;
    return rgp_diagnosis_divided(d) && ((causes[a].parted && causes[b].parted) || own_or_not);
}

/* Its next trial tells whether the loop itself is near swinging. */
static bool is_to_tell(const rgp_diagnosis *d)
{
    return d->first == RGP_CAUSE_OUTSIDE && is_doubtful(d);
}

bool rgp_diagnosis_parts(const rgp_diagnosis *d)
{
    return (is_divided_in_parts(d) && !d->falls) || causes[d->first].rule == rgp_rule_apart || is_to_tell(d);
}

/* The rule of thumb of the likeliest cause, or of the one beside healthy. */
static void try_by_rule(const telling *t, GString *to)
{
    const rgp_diagnosis *d = t->d;
    if (causes[d->first].rule) {
        causes[d->first].rule(t, to);
    }
    if (to->len == 0 && rgp_diagnosis_divided(d) && d->first == RGP_CAUSE_HEALTHY && causes[d->second].rule) {
        causes[d->second].rule(t, to);
    }
}

/* Among which a model may choose: among all of them, where the cause is no likelier than not. */
static unsigned moves_of(const rgp_diagnosis *d)
{
    return d->chance[d->first] < 0.5 ? ANY : causes[d->first].moves;
}

/* True when the model of the stretch has it that the loop goes the right way, and may choose a trial. A healthy loop
 * that is hardly ever off is left in peace. */
static bool may_choose(const telling *t)
{
    const double way = t->run->pid->reverse ? -1.0 : 1.0;
    const bool matters = t->d->first != RGP_CAUSE_HEALTHY || t->d->beyond > NOW_AND_THEN;
    return has_model(t) && matters && moves_of(t->d) != 0 && way * t->d->model.gain.value > 0.0;
}

/* The gain that the cause asks for is not there, or next to, so nothing can be made of it but by rule. */
static bool lacks_gain(const telling *t)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const bool lacks_i = g->ki <= 0.0f || rgp_diagnosis_idle_i(t->d, t->run);
    return (t->d->first == RGP_CAUSE_I_LITTLE && lacks_i) || (t->d->first == RGP_CAUSE_D_MISSING && g->kd <= 0.0f);
}

static bool leap_calms(const telling *t, const rgp_stand *on, rgp_pid_gains *to)
{
    return rgp_leap(t, to) && isfinite(rgp_worst_sensitivity(on, to, INFINITY));
}

/* Of a swing that the model makes itself nothing can be foreseen by what was measured, but by its margins: the rule of
 * thumb, if the loop is calm by it, or else the least move. Beside an integral that does little, less P alone would
 * leave it off for longer, so all gains by the model's rule come first. False: no move calms it. */
static bool try_by_margins(const telling *t, GString *to)
{
    const rgp_pid_gains *now = &t->run->pid->gain;
    const rgp_stand on = rgp_stand_of(&t->d->model, t->run->predict, t->d->step);
    rgp_pid_gains other = *now;
    try_by_rule(t, to);
    const bool leaps = has_slow_i(t) && leap_calms(t, &on, &other);
    bool calms = !leaps && to->len > 0 && rgp_trial_take_gains(to->str, t->names, &other) &&
                 rgp_worst_sensitivity(&on, &other, RGP_CALM) <= RGP_CALM;
    if (leaps || (!calms && (rgp_calmed(&on, now, moves_of(t->d), &other) || leap_calms(t, &on, &other)))) {
        g_string_truncate(to, 0);
        rgp_trial_put_changed(to, t->names, now, &other);
        calms = true;
    }
    g_string_truncate(to, calms ? to->len : 0);
    return calms;
}

static bool is_to_be_calmed(const rgp_diagnosis *d)
{
    return causes[d->first].margins && !is_stable(d);
}

/* The foreseen error that the rule of thumb may have at most. What would swing on with two fifths more gain gets calmer
 * gains whatever they cost, and so does what its model has swinging, and no single move calms. */
static double most_of(const telling *t)
{
    const bool is_at_edge =
        t->d->first == RGP_CAUSE_HEALTHY && is_near_swinging(t->d) && t->d->sign.grow < log(SOME_ROOM);
    return is_at_edge || is_to_be_calmed(t->d) ? CALM : knows_all(t) ? QUICK : causes[t->d->first].most;
}

/* By the model, which looks at what the rule of thumb has first, and in all directions where that is worse and those of
 * the cause have nothing; where it knows nothing that is better, by that rule, unless the model has it far worse. */
static double try_by_model(const telling *t, GString *to)
{
    const rgp_cause cause = t->d->first;
    rgp_pid_gains by_rule = t->run->pid->gain;
    double error = NAN;
    search s;
    begin_search(&s, t);
    try_by_rule(t, to);
    const bool is_known = to->len > 0 && rgp_trial_take_gains(to->str, t->names, &by_rule);
    if (is_known) {
        consider(&s, &by_rule);
    }
    if (!lacks_gain(t)) {
        choose(&s, moves_of(t->d));
    }
    consider_leap(&s);
    const double of_rule = is_known ? rgp_foresee(s.foresight, &by_rule).error / s.stays : 0.0;
    if (s.best.error >= causes[cause].better * s.stays && of_rule > 1.0) {
        choose(&s, ANY);
    }
    if (s.best.error < causes[cause].better * s.stays) {
        error = s.best.error / s.stays;
        if (rgp_is_moved(&s.best.gain, &by_rule)) {
            g_string_truncate(to, 0);
            rgp_trial_put_changed(to, t->names, &t->run->pid->gain, &s.best.gain);
        }
    } else if (is_known) {
        error = of_rule;
        g_string_truncate(to, error > most_of(t) ? 0 : to->len);
    }
    rgp_foresight_free(s.foresight);
    return to->len > 0 && error < BETTER ? error : NAN;
}

/* The dead time of the model in the 'predict' line, where it has one and the loop has some room with that. */
static bool try_predict(const telling *t, GString *to)
{
    rgp_stand on = rgp_stand_of(&t->d->model, t->run->predict, t->d->step);
    on.ahead.dead = rgp_plant_line(&on.plant, on.ahead.lag).dead;
    const rgp_margins m = rgp_stand_margins(&on, &t->run->pid->gain);
    const bool does = has_sign_of_line(t) && m.stable && m.up > SOME_ROOM && on.ahead.dead > t->d->step;
    if (does) {
        rgp_trial_put(to, "predict dead", on.ahead.dead, " s");
    }
    return does;
}

/* Of what falls: the change of its gain after which it is least sensitive, or what goes with the cause by rule where it
 * is held up by that, too. It falls in a dead band. */
static void try_falling(const telling *t, GString *to)
{
    rgp_pid_gains other = t->run->pid->gain;
    if (t->d->first == RGP_CAUSE_HEALTHY || t->d->first == RGP_CAUSE_PACE || t->d->first == RGP_CAUSE_COUNTS) {
        return;
    }
    if (diagnosis_falling_move(t->d, t->run, t->d->first, &other) > LESS_SENSITIVE) {
        rgp_trial_put_changed(to, t->names, &t->run->pid->gain, &other);
        return;
    }
    if (causes[t->d->first].rule) {
        causes[t->d->first].rule(t, to);
    }
    if (to->len > 0 && rgp_trial_take_gains(to->str, t->names, &other) && !diagnosis_falling_holds(t->d, &other)) {
        g_string_truncate(to, 0);
    }
}

/* The error foreseen, or NAN. */
static double try_next(const telling *t, GString *to)
{
    const bool chooses = may_choose(t) && !is_to_tell(t->d);
    if (t->d->falls) {
        try_falling(t, to);
        return NAN;
    }
    if (is_divided_in_parts(t->d)) {
        rgp_rule_apart(t, to);
        return NAN;
    }
    if (t->d->sign.misses > 0.0 && t->d->first == RGP_CAUSE_DEAD && try_predict(t, to)) {
        return NAN;
    }
    if (chooses && is_to_be_calmed(t->d) && try_by_margins(t, to)) {
        return NAN;
    }
    if (chooses) {
        return try_by_model(t, to);
    }
    try_by_rule(t, to);
    return NAN;
}

char *rgp_diagnosis_trial(const rgp_loop_run *run, const rgp_diagnosis *d, const rgp_trial_names *names,
                          double *foreseen)
{
    const telling t = {run, d, names};
    GString *to = g_string_new(NULL);
    *foreseen = try_next(&t, to);
    return g_string_free(to, to->len == 0);
}
