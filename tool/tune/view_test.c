/* Gains and tests under the keys. */
#include "view.h"

#include <math.h>
#include <string.h>

/* ---- gains ------------------------------------------------------------------------------------------- */

static const rgp_image_param *range_of(const tune_view *v, uint32_t gain)
{
    return (const rgp_image_param *)rgp_image_at(v->t->image, RGP_SECTION_PARAMS) + v->t->is->gain[gain];
}

/* Gains change at once; with other settings the rig begins anew. False, which has been said, when it cannot. */
bool tune_set_gains(tune_view *v, const double *gain)
{
    g_autoptr(GError) error = NULL;
    if (!tune_same_settings(v->t, gain, v->gain)) {
        rgp_rig *rig = tune_rig(v->t, gain, &error);
        if (!rig) {
            tune_say(v, "%s", error->message);
            return false;
        }
        rgp_rig_free(v->next);
        v->next = rig;
        v->renews = true;
    }
    for (uint32_t i = 0; i < v->t->gains; i++) {
        v->test.voided |= v->testing && v->gain[i] != gain[i];
        tune_ask(v, RGP_COMMAND_SET, v->t->is->gain[i], gain[i]);
    }
    memcpy(v->gain, gain, sizeof v->gain);
    return true;
}

/* One that is 0 begins at a hundredth of the first. */
void tune_turn_gain(tune_view *v, double factor)
{
    double gain[TUNE_VALUES];
    const rgp_image_param *p = range_of(v, v->chosen);
    memcpy(gain, v->gain, sizeof gain);
    double *now = &gain[v->chosen];
    if (*now == 0.0) {
        *now = factor > 1.0 ? (v->gain[0] > 0.0 ? v->gain[0] / 100.0 : 0.01) : 0.0;
    } else {
        *now = CLAMP(*now * factor, (double)p->low, (double)p->high);
    }
    tune_set_gains(v, gain);
}

/* ---- tests ------------------------------------------------------------------------------------------- */

static void begin_test(tune_view *v, tune_test test, double size, uint32_t disturbance)
{
    const uint64_t end = rgp_history_end(v->chart.history);
    v->test = (tune_try){.test = test, .size = size, .disturbance = disturbance};
    memcpy(v->test.gain, v->gain, sizeof v->test.gain);
    v->begin_us = rgp_history_time_us(v->chart.history, end - 1);
    v->seen = rgp_history_occurrences(v->chart.history)->len;
    v->testing = true;
}

void tune_begin_step(tune_view *v)
{
    g_autofree char *why = NULL;
    const double size = v->stepped ? -v->step : v->step;
    if (!tune_step_fits(v->t, tune_setpoint(v->t, v->chart.history), size, &why)) {
        tune_say(v, "%s", why);
        v->step = v->stepped ? v->step : 0.0; /* so that it is asked again */
        return;
    }
    begin_test(v, TUNE_STEP, size, 0);
    v->stepped = !v->stepped;
    tune_ask(v, RGP_COMMAND_SET, v->t->is->trim, v->stepped ? v->step : 0.0);
}

void tune_begin_push(tune_view *v)
{
    begin_test(v, TUNE_PUSH, v->push, 0);
    tune_ask(v, RGP_COMMAND_SET, v->t->is->bias, v->push);
}

void tune_begin_disturbance(tune_view *v)
{
    const uint32_t count = tune_disturbances(v->t);
    if (count == 0) {
        tune_say(v, "the hook-up states no disturbance behind 0 s");
        return;
    }
    const uint32_t which = tune_disturbance(v->t, v->disturbed++ % count);
    begin_test(v, TUNE_DISTURB, 0.0, which);
    tune_ask(v, RGP_COMMAND_DISTURB, (uint16_t)which, 0.0);
}

static bool cuts_out(const tune_view *v, const rgp_occurrence *o)
{
    return o->kind == RGP_EVENT_TRIPPED && strcmp(o->of, v->t->name) == 0;
}

/* The event since the test began that ends it; NULL: none. */
static const rgp_occurrence *broken_by(const tune_view *v)
{
    const GPtrArray *all = rgp_history_occurrences(v->chart.history);
    for (guint i = v->seen; i < all->len; i++) {
        const rgp_occurrence *o = all->pdata[i];
        if (cuts_out(v, o) || o->kind == RGP_EVENT_FAULT || o->kind == RGP_EVENT_STOPPED ||
            o->kind == RGP_EVENT_STALLED || o->kind == RGP_EVENT_LOST) {
            return o;
        }
    }
    return NULL;
}

static void end_test(tune_view *v, const rgp_occurrence *by)
{
    const char *broken = by ? by->says : NULL;
    rgp_history *h = v->chart.history;
    const uint64_t tick = v->t->image->tick_us, before = (uint64_t)(v->t->over * 1e6);
    const uint64_t from = rgp_history_find(h, v->begin_us > before ? v->begin_us - before : 0);
    const uint64_t begin = rgp_history_find(h, v->begin_us + tick);
    v->testing = false;
    v->test.stopped = g_strdup(broken ? broken : v->test.voided ? "the gains were changed while it went on" : NULL);
    v->test.voided = v->test.voided && !broken;
    v->test.lost = by && cuts_out(v, by);
    v->test.rows = rgp_response_rows(h, v->t->loop, from, rgp_history_end(h));
    v->test.before = (uint32_t)(begin - from);
    if (v->test.test == TUNE_PUSH) {
        tune_ask(v, RGP_COMMAND_SET, v->t->is->bias, 0.0);
    }
    const guint number = tune_add(v->t, &v->test);
    if (broken) {
        tune_ask(v, RGP_COMMAND_STOP, 0, 0.0);
        v->stopped = true;
        tune_say(v, "try %u is broken off, everything rests: %s; c goes on, a begins anew", number, broken);
    } else if (v->test.voided) {
        tune_say(v, "try %u does not count: the gains were changed while it went on", number);
    } else {
        tune_say(v, "try %u is done", number);
    }
}

/* As if it had not been begun. */
void tune_cancel_test(tune_view *v)
{
    v->testing = false;
    if (v->test.test == TUNE_PUSH) {
        tune_ask(v, RGP_COMMAND_SET, v->t->is->bias, 0.0);
    } else if (v->test.test == TUNE_STEP) {
        tune_ask(v, RGP_COMMAND_SET, v->t->is->trim, 0.0);
        v->stepped = false;
    }
    tune_say(v, "the test is cancelled");
}

void tune_follow_test(tune_view *v)
{
    const uint64_t end = rgp_history_end(v->chart.history);
    if (!v->testing || end == 0) {
        return;
    }
    const rgp_occurrence *broken = broken_by(v);
    const double passed = ((double)rgp_history_time_us(v->chart.history, end - 1) - (double)v->begin_us) / 1e6;
    if (broken || passed >= v->t->over) {
        end_test(v, broken);
    }
}
