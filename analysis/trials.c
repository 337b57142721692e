/* Trials in the light of those before them. */
#include "trials.h"

#include "diagnosis_telling.h"
#include "diagnosis_words.h"
#include "loop_lost.h"

#include <math.h>

#define IN_VAIN      3u
#define WORSE        1.05 /* times the error of the best one */
#define AS_ADVISED   0.02 /* of a gain */
#define ON_THE_WAY   0.04 /* of a gain */
#define APART        0.3  /* of the way */
#define NEXT_TO      1.1f /* times a gain */
#define LEAST_LIKELY 0.02 /* a cause that is less likely is no way out */

typedef bool comparison(const rgp_diagnosis *a, const rgp_pid_gains *of_a, const rgp_diagnosis *b,
                        const rgp_pid_gains *of_b);

/* The earlier trial of which that is true; NULL: it is of none. */
static const rgp_tried *earlier(const rgp_tried *trial, guint last, comparison *is)
{
    for (guint i = 0; i < last; i++) {
        if (trial[i].diagnosis &&
            is(trial[last].diagnosis, &trial[last].run.pid->gain, trial[i].diagnosis, &trial[i].run.pid->gain)) {
            return &trial[i];
        }
    }
    return NULL;
}

/* P and D hold what has fallen with other gains: an integral would make it fall again. */
static bool has_fallen(const rgp_tried *trial, guint last)
{
    bool lost = false;
    for (guint i = 0; i < last; i++) {
        lost |= !trial[i].diagnosis;
    }
    return lost;
}

/* The trial of the least error among the first ones. */
static guint best_of(const rgp_tried *trial, guint count)
{
    guint best = 0;
    for (guint i = 1; i < count; i++) {
        best = trial[i].error < trial[best].error ? i : best;
    }
    return best;
}

/* ---- an advice that made it worse -------------------------------------------------------------------- */

static bool is_near(float a, float b)
{
    return fabs((double)a - (double)b) <= AS_ADVISED * fmax(fabs((double)a), fabs((double)b));
}

static bool is_same(const rgp_pid_gains *a, const rgp_pid_gains *b)
{
    return is_near(a->kp, b->kp) && is_near(a->ki, b->ki) && is_near(a->kd, b->kd) && is_near(a->filter, b->filter);
}

/* With these gains it did what the text says, and nothing else. */
static bool took(const char *advice, const rgp_trial_names *names, const rgp_pid_config *from, const rgp_pid_config *to)
{
    rgp_pid_config as_advised = *from;
    return rgp_trial_take(advice, names, &as_advised) && is_same(&as_advised.gain, &to->gain) &&
           is_near(as_advised.deadband, to->deadband);
}

/* Gains that should have calmed a swing of the loop's own were worse: they have told the two apart. */
static void leave_outside(rgp_diagnosis *d)
{
    if (d->first == RGP_CAUSE_OUTSIDE) {
        rgp_diagnosis_settle(d, RGP_CAUSE_OUTSIDE);
    }
}

/* Its next trial should have less error; others tell causes apart, or calm what is near swinging at some cost. */
static bool is_to_help(const rgp_diagnosis *d)
{
    return !rgp_diagnosis_parts(d) && !(d->first == RGP_CAUSE_HEALTHY && is_near_swinging(d));
}

/* The best trial's diagnosis is left without each cause whose remedy was tried and was worse; `refuted`: the
 * last of them. False: none was. */
static bool refute(const rgp_tried *trial, guint best, guint count, const rgp_trial_names *names, rgp_diagnosis *d,
                   rgp_cause *refuted)
{
    bool any = false;
    *d = *trial[best].diagnosis;
    for (guint i = best + 1; i < count; i++) {
        double foreseen;
        g_autofree char *advice = rgp_diagnosis_trial(&trial[best].run, d, names, &foreseen);
        any = advice && is_to_help(d) && trial[i].error > WORSE * trial[best].error &&
              took(advice, names, trial[best].run.pid, trial[i].run.pid);
        if (any) {
            *refuted = d->first;
            rgp_diagnosis_leave_out(d, d->first);
            leave_outside(d);
        }
    }
    return any;
}

/* All gains, since it does not start from those of the last trial, and its dead band where that is another one. */
static char *spelt_out(const char *advice, const rgp_trial_names *names, const rgp_pid_config *from,
                       const rgp_pid_config *last)
{
    rgp_pid_config is = *from;
    GString *to = g_string_new(NULL);
    const bool all = rgp_trial_take(advice, names, &is);
    rgp_trial_put_gain(to, names, 0, (double)is.gain.kp);
    rgp_trial_put_gain(to, names, 1, (double)is.gain.ki);
    rgp_trial_put_gain(to, names, 2, (double)is.gain.kd);
    if (is.gain.filter > 0.0f) {
        rgp_trial_put(to, "filter", (double)is.gain.filter, " s");
    }
    if (!is_near(is.deadband, last->deadband)) {
        rgp_trial_put_deadband(to, names, (double)is.deadband);
    }
    if (!all) {
        g_string_append_printf(to, ", %s", advice);
    }
    return g_string_free(to, FALSE);
}

/* False: the last trial was no worse by an advice. */
static bool go_back(const rgp_tried *trial, guint count, const rgp_trial_names *names, GString *says, char **next,
                    double *foreseen)
{
    const guint best = best_of(trial, count - 1);
    const rgp_tried *from = &trial[best];
    rgp_diagnosis d;
    rgp_cause refuted = RGP_CAUSE_HEALTHY;
    if (!from->diagnosis || from->diagnosis->unfit || rgp_diagnosis_parts(from->diagnosis) ||
        !refute(trial, best, count, names, &d, &refuted)) {
        return false;
    }
    if (refuted == RGP_CAUSE_HEALTHY) {
        g_string_append_printf(says, "worse than try %u, which was healthy", from->number);
    } else {
        g_string_append_printf(says, "worse than try %u, so that was not '%s'", from->number, rgp_cause_words[refuted]);
    }
    g_autofree char *advice = NULL;
    if (refuted != RGP_CAUSE_HEALTHY && d.first != RGP_CAUSE_HEALTHY &&
        from->diagnosis->chance[d.first] > LEAST_LIKELY) {
        g_string_append(says, "; from there, ");
        rgp_diagnosis_say(&from->run, &d, names, says);
        advice = rgp_diagnosis_trial(&from->run, &d, names, foreseen);
    }
    *next = advice ? spelt_out(advice, names, from->run.pid, trial[count - 1].run.pid) : NULL;
    return true;
}

/* ---- the last trial ---------------------------------------------------------------------------------- */

static char *say_last(const rgp_tried *trial, guint last, const rgp_trial_names *names, GString *says, double *foreseen)
{
    const rgp_tried *one = &trial[last];
    rgp_diagnosis d = *one->diagnosis;
    const rgp_tried *same = earlier(trial, last, rgp_diagnosis_same_swing);
    if (earlier(trial, last, rgp_diagnosis_own_swing)) {
        rgp_diagnosis_leave_out(&d, RGP_CAUSE_OUTSIDE);
    }
    if (has_fallen(trial, last)) {
        rgp_diagnosis_leave_out(&d, RGP_CAUSE_I_LITTLE);
    }
    if (same) {
        rgp_diagnosis_settle(&d, RGP_CAUSE_OUTSIDE);
    }
    rgp_diagnosis_say(&one->run, &d, names, says);
    if (same) {
        g_string_append_printf(says, ", at the period of try %u, whose gains were others", same->number);
    }
    return rgp_diagnosis_trial(&one->run, &d, names, foreseen);
}

/* ---- what comes next, beside what was tried ---------------------------------------------------------- */

static bool is_on_the_way(float from, float tried, float to)
{
    return (double)tried >= (1.0 - ON_THE_WAY) * (double)fminf(from, to) &&
           (double)tried <= (1.0 + ON_THE_WAY) * (double)fmaxf(from, to);
}

/* The share of the way, by factors where it has any. */
static double share_of_way(float from, float tried, float to)
{
    return from > 0.0f && tried > 0.0f && to > 0.0f ? log((double)tried / (double)from) / log((double)to / (double)from)
                                                    : ((double)tried - (double)from) / ((double)to - (double)from);
}

/* Of each gain, and by about the same share of the way of each that goes some way. */
static bool lies_between(const rgp_pid_gains *from, const rgp_pid_gains *tried, const rgp_pid_gains *to)
{
    const float way[][3] = {{from->kp, tried->kp, to->kp},
                            {from->ki, tried->ki, to->ki},
                            {from->kd, tried->kd, to->kd},
                            {from->filter, tried->filter, to->filter}};
    double least = INFINITY, most = -INFINITY;
    bool between = true;
    for (size_t i = 0; i < G_N_ELEMENTS(way); i++) {
        between &= is_on_the_way(way[i][0], way[i][1], way[i][2]);
        if (!is_near(way[i][0], way[i][2])) {
            const double share = share_of_way(way[i][0], way[i][1], way[i][2]);
            least = fmin(least, share);
            most = fmax(most, share);
        }
    }
    return between && most - least < APART;
}

/* The nearest earlier trial whose gains an advice leads to, or passes where it was no better than in the last one;
 * NULL: there is none. */
static const rgp_tried *in_the_way(const rgp_tried *trial, guint count, const rgp_pid_gains *to)
{
    const rgp_tried *last = &trial[count - 1], *nearest = NULL;
    const rgp_pid_gains *from = &last->run.pid->gain;
    for (guint i = 0; i + 1 < count; i++) {
        const rgp_pid_gains *g = &trial[i].run.pid->gain, *end = nearest ? &nearest->run.pid->gain : to;
        if (is_same(g, to) || (trial[i].error >= last->error && !is_same(g, from) && lies_between(from, g, end))) {
            nearest = &trial[i];
        }
    }
    return nearest;
}

static float middle(float a, float b)
{
    return a > 0.0f && b > 0.0f ? sqrtf(a * b) : (a + b) / 2.0f;
}

/* Too near for a trial of its own. */
static bool is_next_to(const rgp_pid_gains *a, const rgp_pid_gains *b)
{
    const float of_a[] = {a->kp, a->ki, a->kd, a->filter}, of_b[] = {b->kp, b->ki, b->kd, b->filter};
    bool near = true;
    for (size_t i = 0; i < G_N_ELEMENTS(of_a); i++) {
        near &= fmaxf(of_a[i], of_b[i]) <= NEXT_TO * fminf(of_a[i], of_b[i]);
    }
    return near;
}

/* The middle between the last trial and an earlier one that is in the way of the next one; NULL where that is
 * next to both. */
static char *step_aside(char *next, const rgp_tried *trial, guint count, const rgp_trial_names *names, GString *says,
                        double *foreseen)
{
    const rgp_pid_gains *from = &trial[count - 1].run.pid->gain;
    rgp_pid_gains to = *from;
    const rgp_tried *before = rgp_trial_take_gains(next, names, &to) ? in_the_way(trial, count, &to) : NULL;
    if (!before) {
        return next;
    }
    const rgp_pid_gains *g = &before->run.pid->gain, half = {.kp = middle(from->kp, g->kp),
                                                             .ki = middle(from->ki, g->ki),
                                                             .kd = middle(from->kd, g->kd),
                                                             .filter = middle(from->filter, g->filter)};
    const bool ends = is_next_to(from, &half);
    GString *text = g_string_new(NULL);
    rgp_trial_put_changed(text, names, from, &half);
    g_string_append_printf(says,
                           ends ? "; with what would come next it was try %u"
                                : "; try %u, which lies that way, was no better: half of the way to it",
                           before->number);
    g_free(next);
    *foreseen = NAN;
    return g_string_free(text, ends);
}

char *rgp_trials_say(const rgp_tried *trial, guint count, const rgp_trial_names *names, GString *says)
{
    const rgp_tried *last = &trial[count - 1];
    char *next = NULL;
    double foreseen = NAN;
    if (count > 1 && go_back(trial, count, names, says, &next, &foreseen)) {
        /* it is said */
    } else if (!last->diagnosis) {
        const rgp_lost lost = rgp_lost_of(&last->run);
        rgp_lost_say(&last->run, &lost, says);
        next = rgp_lost_trial(&last->run, &lost, names);
    } else if (last->diagnosis->unfit) {
        g_string_append(says, last->diagnosis->unfit);
    } else {
        next = say_last(trial, count - 1, names, says, &foreseen);
    }
    next = next ? step_aside(next, trial, count, names, says, &foreseen) : NULL;
    if (next && isfinite(foreseen)) {
        g_string_append(says, "; ");
        rgp_diagnosis_foretell(foreseen, says);
    }
    g_autofree char *leaning = last->diagnosis ? rgp_diagnosis_leaning(last->diagnosis, names) : NULL;
    if (leaning) {
        g_string_append_printf(says, "; %s", leaning);
    }
    if (last->diagnosis && count - 1 - best_of(trial, count) >= IN_VAIN) {
        g_string_append(says, "; three tries have not helped: 'rigpulse model' may find what it is that is tuned");
    }
    return next;
}
