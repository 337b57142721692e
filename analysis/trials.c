/* Trials in the light of those before them. */
#include "trials.h"

#include "diagnosis_words.h"
#include "loop_lost.h"

#include <math.h>

#define IN_VAIN      3u
#define WORSE        1.05 /* times the error of the best one */
#define AS_ADVISED   0.02 /* of a gain */
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
    rgp_pid_gains g = from->gain;
    return rgp_trial_take(advice, names, &g) && is_same(&g, &to->gain);
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
        any = advice && trial[i].error > WORSE * trial[best].error &&
              took(advice, names, trial[best].run.pid, trial[i].run.pid);
        if (any) {
            *refuted = d->first;
            rgp_diagnosis_leave_out(d, d->first);
        }
    }
    return any;
}

/* All gains, since it does not start from those of the last trial. */
static char *spelt_out(const char *advice, const rgp_trial_names *names, const rgp_pid_config *from)
{
    rgp_pid_gains g = from->gain;
    GString *to = g_string_new(NULL);
    const bool gains_alone = rgp_trial_take(advice, names, &g);
    rgp_trial_put(to, names->gain[0], (double)g.kp, "");
    rgp_trial_put(to, names->gain[1], (double)g.ki, "");
    rgp_trial_put(to, names->gain[2], (double)g.kd, "");
    if (g.filter > 0.0f) {
        rgp_trial_put(to, "filter", (double)g.filter, " s");
    }
    if (!gains_alone) {
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
    *next = advice ? spelt_out(advice, names, from->run.pid) : NULL;
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

/* An earlier trial with the gains that an advice leads to; NULL: none had them. */
static const rgp_tried *had(const rgp_tried *trial, guint count, const rgp_trial_names *names, const char *advice)
{
    rgp_pid_gains g = trial[count - 1].run.pid->gain;
    for (guint i = 0; rgp_trial_take(advice, names, &g) && i + 1 < count; i++) {
        if (is_same(&g, &trial[i].run.pid->gain)) {
            return &trial[i];
        }
    }
    return NULL;
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
    const rgp_tried *before = next ? had(trial, count, names, next) : NULL;
    if (before) {
        g_string_append_printf(says, "; with what would come next it was try %u", before->number);
        g_clear_pointer(&next, g_free);
    }
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
