/* The next trial for a cause: by a model of the stretch where there is one that bears it, else by a rule of thumb. */
#include "diagnosis_telling.h"

#include "foresight.h"
#include "margins.h"
#include "suggestion.h"

#define LESS          0.7 /* of the gains, for a trial */
#define MORE          1.4
#define MUCH_LESS     0.5
#define MUCH_MORE     2.0
#define LEAST_I       0.4 /* of the integral gain, in one trial */
#define SLOW_I        0.3 /* of what the rule has for such a kp */
#define ENOUGH_I      1.5 /* of what the rule has */
#define QUICKER       3.0
#define LAG_OF_I      0.22 /* quarter turns, 20 degrees */
#define LEAD_OF_D     0.33 /* 30 degrees */
#define UNSURE_LEAD   0.17 /* without a model */
#define LEAST_OF_D    4.0  /* derivative time, in that of its filter */
#define DIVIDED       2.0  /* times as likely: else both are told */

#define BETTER_AT_ALL 0.97 /* of the error of lesser steps */
#define BETTER        0.97 /* of the error of now, or it is not tried */
#define FAR_BETTER    0.8  /* or a healthy loop is left in peace */
#define NOW_AND_THEN  0.1  /* of the time */
#define RESTLESS      0.05 /* of its travel the output may go in a step */
#define MORE_RESTLESS 1.5  /* or so much more than now */

/* ---- by rule of thumb ------------------------------------------------------------------------------- */

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

/* By a model, beside its P the integral does little. */
static bool has_slow_i(const telling *t)
{
    return has_model(t) && t->d->sign.ki_off < t->d->sign.kp_off + log(SLOW_I);
}

/* An integral that does little stays. */
static void try_less(const telling *t, GString *to)
{
    const double by = calmer(t);
    if (has_slow_i(t)) {
        put_p_and_d(t, by, to);
    } else {
        all_times(t, by, to);
    }
}

/* By a model that may be right so much more of it were more than the rule has. */
static bool has_enough_i(const telling *t, double by)
{
    return t->d->sign.explained > HALF_EXPLAINED && t->d->sign.ki_off + log(by) > log(ENOUGH_I);
}

static void try_more(const telling *t, GString *to)
{
    const double by = has_model(t) && t->d->beyond > 0.5 ? MUCH_MORE : MORE;
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

static void try_less_i(const telling *t, GString *to)
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

/* Towards an integral time of the rule, in steps that are not too great. */
static void try_more_i(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const rgp_process *m = &t->d->model;
    const double dead = m->dead.value + m->second + t->d->step,
                 rule = !has_model(t)                     ? 0.0
                        : m->kind == RGP_PROCESS_INTEGRAL ? 8.0 * dead
                                                          : fmin(m->lag.value, 8.0 * dead),
                 ki = (double)g->kp / fmax(rule, t->d->length / 15.0);
    rgp_trial_put_gain(to, t->names, 1, g->ki > 0.0f ? fmax(MORE * (double)g->ki, fmin(ki, 4.0 * (double)g->ki)) : ki);
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
    for (uint32_t i = 0; i < 3; i++) {
        if (by[calmest][i] < 1.0 && value[i] > 0.0) {
            rgp_trial_put_gain(to, t->names, i, by[calmest][i] * value[i]);
        }
    }
}

/* Of a healthy loop that is near swinging. */
static void try_room(const telling *t, GString *to)
{
    if (is_near_swinging(t->d)) {
        try_calmest(t, to);
    }
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
    } else if (bears && g->ki > 0.0f && t->d->model.kind != RGP_PROCESS_INTEGRAL && !is_mostly_i(t)) {
        rgp_trial_put_gain(to, t->names, 1, QUICKER * (double)g->ki);
    } else {
        all_times(t, bears ? MUCH_MORE : MORE, to);
    }
}

static void try_more_d(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const double w = isfinite(t->d->period) ? 2.0 * G_PI / t->d->period : 1.0 / (4.0 * t->d->step),
                 lead = has_model(t) ? LEAD_OF_D : UNSURE_LEAD, kd = (double)g->kp * tan(lead * G_PI / 2.0) / w;
    rgp_trial_put_gain(to, t->names, 2, fmax(MORE * (double)g->kd, kd));
    if (g->filter <= 0.0f) {
        rgp_trial_put(to, "filter", fmax(t->d->step, kd / (double)g->kp / 8.0), " s");
    }
}

/* A swing at which the integral lags by that much is not ended by less D. */
static void try_less_d(const telling *t, GString *to)
{
    if (is_mostly_i(t)) {
        try_less_i(t, to);
        return;
    }
    rgp_trial_put_gain(to, t->names, 2, MUCH_LESS * (double)t->run->pid->gain.kd);
}

/* A longer filter lags more: of a loop that may not be stable, or whose filter would leave little of the derivative,
 * that is made less instead. */
static void try_filter(const telling *t, GString *to)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    const double most = (double)g->kd / fmax((double)g->kp, G_MINDOUBLE) / LEAST_OF_D,
                 filter = fmin(fmax(3.0 * (double)g->filter, 3.0 * t->d->step), most);
    if ((t->d->sign.explained > 0.0 && !is_stable(t->d)) || filter < fmax(MORE * (double)g->filter, t->d->step)) {
        try_less_d(t, to);
    } else {
        rgp_trial_put(to, "filter", filter, " s");
    }
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

/* ---- by a model ------------------------------------------------------------------------------------- */

enum {
    ALL_LESS = 1,
    ALL_MORE = 2,
    PD_LESS = 4,
    PD_MORE = 8,
    P_LESS = 16,
    P_MORE = 32,
    I_LESS = 64,
    I_MORE = 128,
    D_LESS = 256,
    D_MORE = 512,
    PD_LESS_I_MORE = 1024,
    PD_MORE_I_LESS = 2048,
    ANY = 4095
};

static const struct {
    unsigned less, more;
    int of[3]; /* 1: grows in one that is more, -1: shrinks in it */
} kinds[] = {{ALL_LESS, ALL_MORE, {1, 1, 1}}, {PD_LESS, PD_MORE, {1, 0, 1}},
             {P_LESS, P_MORE, {1, 0, 0}},     {I_LESS, I_MORE, {0, 1, 0}},
             {D_LESS, D_MORE, {0, 0, 1}},     {PD_LESS_I_MORE, PD_MORE_I_LESS, {1, -1, 1}}};

/* From the least step on: a greater one has to be better by a little. */
static const double steps[] = {1.4, 2.0};

typedef struct choice {
    rgp_pid_gains gain;
    double error;
} choice;

typedef struct search {
    const telling *t;
    rgp_foresight *foresight;
    rgp_plant plant;
    double sensitivity, way; /* that other gains may have */
    double stays;            /* the error with the gains of now */
    choice best;             /* those, where none is any better */
} search;

static double sensitivity_of(const search *s, const rgp_pid_gains *g)
{
    const rgp_margins m = rgp_margins_of(&s->plant, g, s->t->d->step);
    return m.stable ? m.sensitivity : INFINITY;
}

static rgp_pid_gains times(const rgp_pid_gains *g, const int *of, double by)
{
    rgp_pid_gains other = *g;
    other.kp *= (float)pow(by, of[0]);
    other.ki *= (float)pow(by, of[1]);
    other.kd *= (float)pow(by, of[2]);
    return other;
}

static bool is_change(const rgp_pid_gains *a, const rgp_pid_gains *b)
{
    return a->kp != b->kp || a->ki != b->ki || a->kd != b->kd;
}

static void consider(search *s, const rgp_pid_gains *g)
{
    if (!is_change(g, &s->t->run->pid->gain) || sensitivity_of(s, g) > s->sensitivity) {
        return;
    }
    const rgp_foreseen is = rgp_foresee(s->foresight, g);
    if (is.way <= s->way && is.error < BETTER_AT_ALL * s->best.error) {
        s->best = (choice){*g, is.error};
    }
}

static void begin_search(search *s, const telling *t)
{
    const rgp_pid_gains *now = &t->run->pid->gain;
    const rgp_plant plant = rgp_process_plant(&t->d->model);
    *s = (search){.t = t, .foresight = rgp_foresight_of(t->run, &plant, t->d->step), .plant = plant};
    s->plant.gain = fabs(plant.gain);
    const rgp_foreseen stays = rgp_foresee(s->foresight, now);
    const double is = sensitivity_of(s, now);
    s->stays = fmax(stays.error, 1e-300);
    s->best = (choice){*now, s->stays};
    s->way = fmax(RESTLESS, MORE_RESTLESS * stays.way);
    s->sensitivity = isfinite(is) ? fmax(is, SENSITIVE) : INFINITY;
}

/* Of the moves that a cause has, the one of which the model of the stretch has the least error. */
static void choose(search *s, unsigned moves)
{
    const rgp_pid_gains *now = &s->t->run->pid->gain;
    for (size_t k = 0; k < G_N_ELEMENTS(steps); k++) {
        for (size_t i = 0; i < G_N_ELEMENTS(kinds); i++) {
            const rgp_pid_gains less = times(now, kinds[i].of, 1.0 / steps[k]),
                                more = times(now, kinds[i].of, steps[k]);
            if (moves & kinds[i].less) {
                consider(s, &less);
            }
            if (moves & kinds[i].more) {
                consider(s, &more);
            }
        }
    }
}

/* ---- all of it -------------------------------------------------------------------------------------- */

/* A rule of thumb that makes quicker is held against the model. One that calms is not: a swing that the model does not
 * make counts there as one from outside. */
#define QUICK 1.0
#define CALM  INFINITY

static const struct {
    void (*try)(const telling *t, GString *to); /* NULL: no trial of gains */
    bool parted;    /* what swings so does as it did with lesser gains, or not: that tells it from others of these */
    unsigned moves; /* among which a model may choose; 0: it has no say */
    double better, most; /* foreseen error, in that of now: of its choice, and of the rule of thumb, at most */
} causes[RGP_CAUSES] = {
    [RGP_CAUSE_HEALTHY] = {try_room, false, ANY, FAR_BETTER, QUICK},
    [RGP_CAUSE_PACE] = {try_less, false, ALL_LESS | PD_LESS | P_LESS | I_LESS | D_LESS, BETTER, CALM},
    [RGP_CAUSE_OUTSIDE] = {try_quicker, true, ANY, BETTER, QUICK},
    [RGP_CAUSE_FRICTION] = {try_apart, true, 0, BETTER, CALM},
    [RGP_CAUSE_PLAY] = {try_apart, true, 0, BETTER, CALM},
    [RGP_CAUSE_COUNTS] = {try_deadband, true, 0, BETTER, CALM},
    [RGP_CAUSE_NOISE] = {try_filter, false, 0, BETTER, CALM},
    [RGP_CAUSE_P_MUCH] = {try_less, true, ALL_LESS | PD_LESS | P_LESS | D_MORE, BETTER, CALM},
    [RGP_CAUSE_P_LITTLE] = {try_more, false, ALL_MORE | PD_MORE | P_MORE, BETTER, QUICK},
    [RGP_CAUSE_I_MUCH] = {try_less_i, false, I_LESS | PD_MORE | P_MORE | PD_MORE_I_LESS, BETTER, CALM},
    [RGP_CAUSE_I_LITTLE] = {try_more_i, false, I_MORE | ALL_MORE | PD_LESS_I_MORE, BETTER, QUICK},
    [RGP_CAUSE_D_MISSING] = {try_more_d, false, D_MORE | P_LESS | ALL_LESS, BETTER, CALM},
    [RGP_CAUSE_D_MUCH] = {try_less_d, false, D_LESS | ALL_LESS, BETTER, CALM},
    [RGP_CAUSE_DEAD] = {try_less, true, ALL_LESS | PD_LESS | P_LESS | I_LESS | D_LESS, BETTER, CALM},
};

bool rgp_diagnosis_divided(const rgp_diagnosis *d)
{
    return d->chance[d->first] < DIVIDED * d->chance[d->second];
}

static bool is_divided_in_parts(const rgp_diagnosis *d)
{
    return rgp_diagnosis_divided(d) && causes[d->first].parted && causes[d->second].parted;
}

/* Its next trial tells whether the loop itself is near swinging. */
static bool is_to_tell(const rgp_diagnosis *d)
{
    return (d->first == RGP_CAUSE_OUTSIDE && is_doubtful(d));
}

bool rgp_diagnosis_parts(const rgp_diagnosis *d)
{
    return is_divided_in_parts(d) || causes[d->first].try == try_apart || is_to_tell(d);
}

/* The rule of thumb of the likeliest cause, or of the one beside healthy. */
static void try_by_rule(const telling *t, GString *to)
{
    const rgp_diagnosis *d = t->d;
    if (causes[d->first].try) {
        causes[d->first].try(t, to);
    }
    if (to->len == 0 && rgp_diagnosis_divided(d) && d->first == RGP_CAUSE_HEALTHY && causes[d->second].try) {
        causes[d->second].try(t, to);
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

/* The gain that the cause asks for is not there at all, so nothing can be made of it but by rule. */
static bool lacks_gain(const telling *t)
{
    const rgp_pid_gains *g = &t->run->pid->gain;
    return (t->d->first == RGP_CAUSE_I_LITTLE && g->ki <= 0.0f) ||
           (t->d->first == RGP_CAUSE_D_MISSING && g->kd <= 0.0f);
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
    const bool is_known = to->len > 0 && rgp_trial_take(to->str, t->names, &by_rule);
    if (is_known) {
        consider(&s, &by_rule);
    }
    if (!lacks_gain(t)) {
        choose(&s, moves_of(t->d));
    }
    const double of_rule = is_known ? rgp_foresee(s.foresight, &by_rule).error / s.stays : 0.0;
    if (s.best.error >= causes[cause].better * s.stays && of_rule > 1.0) {
        choose(&s, ANY);
    }
    if (s.best.error < causes[cause].better * s.stays) {
        error = s.best.error / s.stays;
        if (is_change(&s.best.gain, &by_rule)) {
            g_string_truncate(to, 0);
            rgp_trial_put_changed(to, t->names, &t->run->pid->gain, &s.best.gain);
        }
    } else if (is_known) {
        error = of_rule;
        g_string_truncate(to, error > causes[cause].most ? 0 : to->len);
    }
    rgp_foresight_free(s.foresight);
    return to->len > 0 && error < BETTER ? error : NAN;
}

char *rgp_diagnosis_trial(const rgp_loop_run *run, const rgp_diagnosis *d, const rgp_trial_names *names,
                          double *foreseen)
{
    const telling t = {run, d, names};
    GString *to = g_string_new(NULL);
    *foreseen = NAN;
    if (is_divided_in_parts(d)) {
        try_apart(&t, to);
    } else if (may_choose(&t) && !is_to_tell(d)) {
        *foreseen = try_by_model(&t, to);
    } else {
        try_by_rule(&t, to);
    }
    return g_string_free(to, to->len == 0);
}
