/* Zeros held against what goes into them while it is at rest. */
#include "drift.h"

#include "explain/disassembly.h"
#include "explain/describe.h"
#include "rigpulse/condition/zero.h"

#include <math.h>
#include <stdio.h>

/* One 'zero' of which the input can be seen. */
typedef struct watched {
    uint16_t in, owner; /* slots */
    const rgp_zero_config *config;
    bool resting;                   /* it has learned, and has been at rest since */
    double offset, before;          /* before: mean of the window before */
    uint64_t learned_us, window_us; /* when it had learned; when the window began */
    uint64_t count;
    double mean, squares; /* of the window, by Welford's recurrence (1962) */
} watched;

struct drift {
    const rgp_image_header *image;
    GArray *zero; /* of watched */
};

drift *drift_new(const rgp_image_header *image)
{
    drift *d = g_new0(drift, 1);
    rgp_decoded step;
    d->image = image;
    d->zero = g_array_new(FALSE, FALSE, sizeof(watched));
    for (rgp_steps all = rgp_steps_of(image); rgp_steps_next(&all, &step);) {
        if (step.op == RGP_OP_ZERO && rgp_image_name_of(image, RGP_NAME_SLOT, step.in[0], 0)) {
            const watched w = {.in = step.in[0], .owner = step.owner, .config = step.config};
            g_array_append_val(d->zero, w);
        }
    }
    return d;
}

void drift_free(drift *d)
{
    if (d) {
        g_array_unref(d->zero);
        g_free(d);
    }
}

static void begin_window(watched *w, uint64_t now_us)
{
    w->window_us = now_us;
    w->count = 0;
    w->mean = w->squares = 0.0;
}

static void describe_drift(const drift *d, const watched *w, uint64_t now_us)
{
    g_autoptr(GString) by = g_string_new(NULL);
    rgp_describe_number(w->mean - w->offset, rgp_image_unit(d->image, RGP_NAME_SLOT, w->in, 0), by);
    printf(
        "%8.3f  > %s: its zero has drifted by %s in the %.3g s since it was learned, at rest all the time; it needs a "
        "longer 'warmup', or 'relearn' now and then\n",
        (double)now_us / 1e6, rgp_image_text(d->image, RGP_NAME_SLOT, w->owner, 0), by->str,
        (double)(now_us - w->learned_us) / 1e6);
}

static void end_window(const drift *d, watched *w, uint64_t now_us)
{
    const double spread = w->count > 1 ? sqrt(w->squares / (double)(w->count - 1)) : 0.0;
    const double most = (double)w->config->drift; /* what goes further from window to window is a movement */
    w->resting = w->count > 3 && spread <= (double)w->config->spread && fabs(w->mean - w->before) <= most;
    w->before = w->mean;
    if (w->resting && fabs(w->mean - w->offset) > most) {
        describe_drift(d, w, now_us);
        w->resting = false;
    }
    begin_window(w, now_us);
}

static void take_value(const drift *d, watched *w, double value, uint64_t now_us)
{
    const double before = value - w->mean;
    w->mean += before / (double)++w->count;
    w->squares += before * (value - w->mean);
    if (now_us - w->window_us >= (uint64_t)(1e6 * (double)w->config->window)) {
        end_window(d, w, now_us);
    }
}

static void take_events(watched *w, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    const rgp_event *event = rgp_frame_event(layout, frame);
    for (uint32_t i = 0; i < frame->events; i++) {
        if (event[i].kind == RGP_EVENT_LEARNED && event[i].reason == RGP_LEARNED_ZERO && event[i].source == w->owner) {
            w->resting = true;
            w->offset = w->before = (double)event[i].value;
            w->learned_us = frame->time_us;
            begin_window(w, frame->time_us);
        }
    }
}

void drift_frame(drift *d, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    for (guint i = 0; i < d->zero->len; i++) {
        watched *w = &g_array_index(d->zero, watched, i);
        if (w->resting && rgp_usable(rgp_frame_quality(layout, frame)[w->in])) {
            take_value(d, w, (double)rgp_frame_value(layout, frame)[w->in], frame->time_us);
        }
        take_events(w, layout, frame);
    }
}
