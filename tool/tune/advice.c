/* Advice on the gains of a try. */
#include "tune.h"

#include "analysis/loop_nudge.h"
#include "analysis/loop_pieces.h"
#include "analysis/loop_plain.h"
#include "analysis/loop_switched.h"
#include "analysis/trials.h"

#include <math.h>
#include <string.h>

/* The controller of a rig of the same loop, with the gains of a try. */
static void take_from(const tuning *t, const rgp_image_header *image, tune_try *to)
{
    const rgp_predict_config *line = rgp_loop_predict(image, t->loop);
    to->pid = *rgp_loop_pid(image, t->loop);
    float *gain[TUNE_GAINS] = {&to->pid.gain.kp, &to->pid.gain.ki, &to->pid.gain.kd};
    for (uint32_t i = 0; i < MIN(t->gains, TUNE_GAINS); i++) {
        *gain[i] = (float)(to->gain[i] * tune_gain_scale(t, i));
    }
    if (line) {
        to->predict = *line;
    }
}

/* The controller as it was in a try; settings that are not the file's are those of a rig of its own. */
static void take_controller(const tuning *t, tune_try *to)
{
    double file[TUNE_VALUES];
    tune_file_gains(t, file);
    rgp_rig *other = tune_same_settings(t, file, to->gain) ? NULL : tune_rig(t, to->gain, NULL);
    take_from(t, other ? other->image : t->image, to);
    rgp_rig_free(other);
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
static rgp_loop_run run_of(const tuning *t, const tune_try *one)
{
    const double least = one->response.verdict == RGP_VERDICT_SETTLED ? one->response.band : 0.0;
    return (rgp_loop_run){(const rgp_response_row *)(const void *)one->rows->data,    one->rows->len, &one->pid, least,
                          rgp_loop_predict(t->image, t->loop) ? &one->predict : NULL, false};
}

void tune_diagnose(const tuning *t, tune_try *one)
{
    one->diagnosis = NULL;
    if (!rgp_loop_pid(t->image, t->loop)) {
        return;
    }
    take_controller(t, one);
    if (!one->voided && !one->lost) {
        const rgp_loop_run run = run_of(t, one);
        one->diagnosis = g_new(rgp_diagnosis, 1);
        rgp_diagnose(&run, one->diagnosis);
    }
}

/* All tries of the test of that one, up to it. */
static char *gains_advice(const tuning *t, const tune_try *one, char **next)
{
    const rgp_trial_names names = rgp_trial_names_of(t->image, t->loop);
    g_autoptr(GArray) tried = g_array_new(FALSE, FALSE, sizeof(rgp_tried));
    const tune_try *other = NULL;
    for (guint i = 0; other != one; i++) {
        other = tune_try_at(t, i);
        const bool same = !other->voided && other->test == one->test && other->disturbance == one->disturbance;
        if (same && (other->diagnosis || other->lost)) {
            const rgp_tried is = {i + 1, run_of(t, other), other->diagnosis,
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
    if (one->voided) {
        return NULL;
    }
    const rgp_onoff_config *onoff = rgp_loop_onoff(t->image, t->loop);
    return rgp_loop_pid(t->image, t->loop) ? gains_advice(t, one, next)
           : onoff                         ? switched_advice(t, one, onoff)
                                           : nudge_advice(t, one, next);
}
