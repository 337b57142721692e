/* Gains from a model of what the loop did in the newest test: offered at a key, taken at the next press. */
#include "view.h"

#include "analysis/loop_pieces.h"
#include "analysis/process_rows.h"
#include "analysis/suggestion.h"

#include "explain/describe.h"

#include <math.h>
#include <string.h>

/* The rows of the newest test, with as many behind it; before any test those that are kept from the beginning on, for
 * as long as five tests take. What has stood still for long would only hide what moved. */
static void find_rows(const tune_view *v, uint64_t *from, uint64_t *to)
{
    const rgp_history *h = v->chart.history;
    const bool tested = v->t->tries->len > 0;
    const uint64_t over_us = (uint64_t)(v->t->over * 1e6),
                   begin_us = tested ? v->begin_us - MIN(v->begin_us, over_us / 4)
                                     : rgp_history_time_us(h, rgp_history_first(h));
    *from = rgp_history_find(h, begin_us);
    *to = rgp_history_find(h, begin_us + (tested ? 2 : 5) * over_us);
}

/* The rows that tell something, fitted; false, which has been said, when they tell nothing. */
static bool fit_what_was(tune_view *v, rgp_process *model, double *step_s)
{
    const tuning *t = v->t;
    const rgp_history *h = v->chart.history;
    const rgp_process_names names = {
        t->name, rgp_image_text(t->image, RGP_NAME_SLOT, t->is->measured, 0),
        rgp_image_text(t->image, RGP_NAME_SLOT, rgp_image_actuator_slot(t->image, t->is->actuator), 0)};
    rgp_process_rows rows;
    uint64_t from, to;
    find_rows(v, &from, &to);
    const char *missing = rgp_process_rows_of(h, &names, from, to, &rows);
    const rgp_process_data data = rgp_process_rows_data(&rows);
    const bool fitted = !missing && rgp_process_fit_held(&data, rows.held_by, model);
    *step_s = rows.step_s;
    rgp_process_rows_clear(&rows);
    if (!fitted) {
        tune_say(v, missing ? "what the loop measures has no name, so there is no model of it"
                            : "too little has moved so far: push it, or step it, and look again");
    }
    return fitted;
}

static bool find_gains(tune_view *v, const rgp_process *model, double step_s)
{
    const rgp_pid_config *pid = rgp_loop_pid(v->t->image, v->t->loop);
    const rgp_suggestion_ask ask = {model, pid, rgp_want_of("steady"), step_s,
                                    rgp_loop_predict(v->t->image, v->t->loop)};
    g_autoptr(GPtrArray) doubts = rgp_process_doubts(model, step_s);
    rgp_suggestion found;
    if (doubts->len > 0) {
        tune_say(v, "no gains from what has moved: %s", (const char *)doubts->pdata[0]);
    } else if ((model->gain.value < 0.0) != (pid->reverse != 0)) {
        tune_say(v, "the sign of the loop is wrong: %s 'reverse'", pid->reverse ? "take out" : "put in");
    } else if (rgp_suggestion_of(&ask, &found)) {
        const float gain[TUNE_GAINS] = {found.gain.kp, found.gain.ki, found.gain.kd};
        memcpy(v->offer, v->gain, sizeof v->offer);
        for (uint32_t i = 0; i < TUNE_GAINS; i++) {
            char text[G_ASCII_DTOSTR_BUF_SIZE];
            v->offer[i] = g_ascii_strtod(
                g_ascii_formatd(text, sizeof text, "%.3g", (double)gain[i] / tune_gain_scale(v->t, i)), NULL);
        }
        return true;
    } else {
        tune_say(v, "no gains make it steady: the loop steps too slowly for what it regulates");
    }
    return false;
}

void tune_offer_model(tune_view *v)
{
    rgp_process model = {.fitted = NULL};
    double step_s;
    v->offered = false;
    if (!rgp_loop_pid(v->t->image, v->t->loop)) {
        tune_say(v, "only a pid loop has gains that a model could give");
    } else if (fit_what_was(v, &model, &step_s) && find_gains(v, &model, step_s)) {
        g_autofree char *gains = tune_gains_text(v->t, v->offer);
        v->offered = true;
        v->offers = 'm';
        tune_say(v, "m again takes %s (gain %s, lag %s s, dead time %s s)", gains, rgp_digits(model.gain.value, 3).text,
                 rgp_digits(model.kind == RGP_PROCESS_INTEGRAL ? INFINITY : model.lag.value, 3).text,
                 rgp_digits(model.dead.value, 3).text);
    }
    rgp_process_clear(&model);
}

void tune_offer_advice(tune_view *v)
{
    const tuning *t = v->t;
    g_autofree char *next = NULL, *why = NULL,
                    *says = t->tries->len > 0 ? tune_advice(t, tune_try_at(t, t->tries->len - 1), &next) : NULL;
    v->offered = false;
    if (!says) {
        tune_say(v, "no try tells of gains so far: step it, or push it");
        return;
    }
    memcpy(v->offer, tune_try_at(t, t->tries->len - 1)->gain, sizeof v->offer);
    v->offered = next && tune_parse_gains(t, next, v->offer, &why);
    v->offers = 'y';
    if (v->offered) {
        tune_say(v, "y again takes %s: %s", next, says);
    } else {
        tune_say(v, "%s", says);
    }
}

void tune_take_offer(tune_view *v)
{
    v->offered = false;
    if (tune_set_gains(v, v->offer)) {
        tune_say(v, v->offers == 'y' ? "the next trial: test it" : "the gains of the model");
    }
}
