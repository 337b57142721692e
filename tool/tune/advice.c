/* Advice on the gains of a try. */
#include "tune.h"

#include "analysis/diagnosis_words.h"
#include "analysis/loop_lost.h"
#include "analysis/loop_nudge.h"
#include "analysis/loop_pieces.h"
#include "analysis/loop_plain.h"
#include "analysis/loop_switched.h"

#include <math.h>
#include <string.h>

#define IN_VAIN 3u

/* The controller with the gains and settings of a try. */
static bool take_pid(const tuning *t, const tune_try *one, rgp_pid_config *pid)
{
    const rgp_pid_config *written = rgp_loop_pid(t->image, t->loop);
    if (!written) {
        return false;
    }
    *pid = *written;
    float *gain[TUNE_GAINS] = {&pid->gain.kp, &pid->gain.ki, &pid->gain.kd};
    for (uint32_t i = 0; i < MIN(t->gains, TUNE_GAINS); i++) {
        *gain[i] = (float)one->gain[i];
    }
    for (uint32_t i = t->gains; i < t->gains + t->settings; i++) {
        if (strcmp(tune_gain_word(t, i), "filter") == 0) {
            pid->gain.filter = (float)one->gain[i];
        }
    }
    return true;
}

/* Of a loop that moves its output step by step. */
static char *nudge_advice(const tuning *t, const tune_try *one, char **next)
{
    rgp_nudged of = {.row = (const rgp_response_row *)(const void *)one->rows->data,
                     .rows = one->rows->len,
                     .tolerance = t->tolerance,
                     .unit = t->unit};
    for (uint32_t i = 0; i < t->gains; i++) {
        if (strcmp(tune_gain_word(t, i), "stride") == 0) {
            of.stride = one->gain[i];
        }
    }
    if (of.stride <= 0.0) {
        return NULL;
    }
    GString *says = g_string_new(NULL);
    *next = rgp_nudge_advice(&of, says);
    return g_string_free(says, FALSE);
}

/* Of a loop that switches. */
static char *switched_advice(const tuning *t, const tune_try *one, const rgp_onoff_config *written)
{
    rgp_onoff_config is = *written;
    for (uint32_t i = 0; i < t->gains; i++) {
        if (strcmp(tune_gain_word(t, i), "margin") == 0) {
            is.margin = (float)one->gain[i];
        }
    }
    const rgp_switched of = {(const rgp_response_row *)(const void *)one->rows->data, one->rows->len, &is, t->unit};
    GString *says = g_string_new(NULL);
    const char *remedy = rgp_switched_advice(&of, says);
    if (remedy) {
        g_string_append_printf(says, "; %s", remedy);
    }
    return g_string_free(says, FALSE);
}

static rgp_loop_run run_of(const tune_try *one, const rgp_pid_config *pid)
{
    return (rgp_loop_run){(const rgp_response_row *)(const void *)one->rows->data, one->rows->len, pid, 0.0};
}

rgp_diagnosis *tune_diagnose(const tuning *t, const tune_try *one)
{
    rgp_pid_config pid;
    if (one->voided || one->lost || !take_pid(t, one, &pid)) {
        return NULL;
    }
    const rgp_loop_run run = run_of(one, &pid);
    rgp_diagnosis *d = g_new(rgp_diagnosis, 1);
    rgp_diagnose(&run, d);
    return d;
}

typedef bool comparison(const rgp_diagnosis *a, const rgp_pid_gains *of_a, const rgp_diagnosis *b,
                        const rgp_pid_gains *of_b);

/* The number of the earlier try of the same test of which that is true; 0: of none. */
static guint earlier_try(const tuning *t, const tune_try *one, const rgp_pid_gains *gains, comparison *is)
{
    for (guint i = 0; i < t->tries->len && tune_try_at(t, i) != one; i++) {
        const tune_try *other = tune_try_at(t, i);
        rgp_pid_config pid;
        if (other->diagnosis && other->test == one->test && take_pid(t, other, &pid) &&
            is(one->diagnosis, gains, other->diagnosis, &pid.gain)) {
            return i + 1;
        }
    }
    return 0;
}

/* P and D hold what has fallen with other gains: an integral would make it fall again. */
static bool falls(const tuning *t, const tune_try *one)
{
    bool lost = false;
    for (guint i = 0; i < t->tries->len && tune_try_at(t, i) != one; i++) {
        lost |= tune_try_at(t, i)->lost;
    }
    return lost;
}

/* The tries of the same test that have come since the best one, this one included. */
static guint in_vain(const tuning *t, const tune_try *one)
{
    guint since = 0;
    double least = INFINITY;
    for (guint i = 0; i < t->tries->len; i++) {
        const tune_try *other = tune_try_at(t, i);
        if (other->test == one->test && other->disturbance == one->disturbance) {
            const double iae = other->stopped ? (double)INFINITY : other->response.iae;
            since = iae < least ? 0 : since + 1;
            least = fmin(least, iae);
        }
        if (other == one) {
            break;
        }
    }
    return since;
}

static char *gains_advice(const tuning *t, const tune_try *one, const rgp_pid_config *pid, char **next)
{
    const rgp_loop_run run = run_of(one, pid);
    const rgp_trial_names names = rgp_trial_names_of(t->image, t->loop);
    GString *says = g_string_new(NULL);
    if (one->lost) {
        const rgp_lost lost = rgp_lost_of(&run);
        rgp_lost_say(&run, &lost, says);
        *next = rgp_lost_trial(&run, &lost, &names);
    } else if (one->diagnosis->unfit) {
        g_string_append(says, one->diagnosis->unfit);
    } else {
        rgp_diagnosis d = *one->diagnosis;
        const guint same = earlier_try(t, one, &pid->gain, rgp_diagnosis_same_swing);
        if (earlier_try(t, one, &pid->gain, rgp_diagnosis_own_swing) > 0) {
            rgp_diagnosis_leave_out(&d, RGP_CAUSE_OUTSIDE);
        }
        if (falls(t, one)) {
            rgp_diagnosis_leave_out(&d, RGP_CAUSE_I_LITTLE);
        }
        if (same > 0) {
            rgp_diagnosis_settle(&d, RGP_CAUSE_OUTSIDE);
        }
        rgp_diagnosis_say(&run, &d, &names, says);
        *next = rgp_diagnosis_trial(&run, &d, &names);
        if (same > 0) {
            g_string_append_printf(says, ", at the period of try %u, whose gains were others", same);
        }
    }
    if (in_vain(t, one) >= IN_VAIN && !one->lost) {
        g_string_append(says, "; three tries have not helped: 'rigpulse model' may find what it is that is tuned");
    }
    return g_string_free(says, FALSE);
}

char *tune_advice(const tuning *t, const tune_try *one, char **next)
{
    rgp_pid_config pid;
    if (one->voided) {
        return NULL;
    }
    const rgp_onoff_config *onoff = rgp_loop_onoff(t->image, t->loop);
    return take_pid(t, one, &pid) ? gains_advice(t, one, &pid, next)
           : onoff                ? switched_advice(t, one, onoff)
                                  : nudge_advice(t, one, next);
}
