/* Advice on the gains of a try. */
#include "tune.h"

#include "analysis/loop_nudge.h"
#include "analysis/loop_pieces.h"
#include "analysis/loop_plain.h"
#include "analysis/loop_switched.h"
#include "analysis/trials.h"

#include <math.h>
#include <string.h>

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
        *gain[i] = (float)(one->gain[i] * tune_gain_scale(t, i));
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
            is.margin = (float)(one->gain[i] * tune_gain_scale(t, i));
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

/* A settled try moves within its band, and that is nothing. */
static rgp_loop_run run_of(const tune_try *one, const rgp_pid_config *pid)
{
    const double least = one->response.verdict == RGP_VERDICT_SETTLED ? one->response.band : 0.0;
    return (rgp_loop_run){(const rgp_response_row *)(const void *)one->rows->data, one->rows->len, pid, least};
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

/* All tries of the test of that one, up to it. */
static char *gains_advice(const tuning *t, const tune_try *one, char **next)
{
    const rgp_trial_names names = rgp_trial_names_of(t->image, t->loop);
    g_autofree rgp_pid_config *pid = g_new0(rgp_pid_config, t->tries->len);
    g_autoptr(GArray) tried = g_array_new(FALSE, FALSE, sizeof(rgp_tried));
    const tune_try *other = NULL;
    for (guint i = 0; other != one; i++) {
        other = tune_try_at(t, i);
        const bool same = !other->voided && other->test == one->test && other->disturbance == one->disturbance;
        if (same && (other->diagnosis || other->lost) && take_pid(t, other, &pid[i])) {
            const rgp_tried is = {i + 1, run_of(other, &pid[i]), other->diagnosis,
                                  other->stopped || other->lost ? (double)INFINITY : other->response.iae};
            g_array_append_val(tried, is);
        }
    }
    GString *says = g_string_new(NULL);
    *next = rgp_trials_say((const rgp_tried *)(const void *)tried->data, tried->len, &names, says);
    return g_string_free(says, FALSE);
}

char *tune_advice(const tuning *t, const tune_try *one, char **next)
{
    rgp_pid_config pid;
    if (one->voided) {
        return NULL;
    }
    const rgp_onoff_config *onoff = rgp_loop_onoff(t->image, t->loop);
    return take_pid(t, one, &pid) ? gains_advice(t, one, next)
           : onoff                ? switched_advice(t, one, onoff)
                                  : nudge_advice(t, one, next);
}
