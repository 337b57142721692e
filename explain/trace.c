/* The past of a run, frame by frame. */
#include "trace.h"

#include "disassembly.h"

#include <glib.h>
#include <string.h>

/* Of a traced rig no slot is written twice. */
static struct rgp_decoded *decode(const rgp_image_header *image)
{
    struct rgp_decoded *step = g_new0(struct rgp_decoded, image->slots + 1), one;
    for (uint32_t i = 0; i < image->slots; i++) {
        step[i].out = RGP_REF_NONE;
    }
    for (rgp_steps all = rgp_steps_of(image); rgp_steps_next(&all, &one);) {
        for (uint32_t k = 0; k < rgp_ops[one.op].outputs; k++) {
            step[one.out + k] = one;
            step[one.out + k].out = (uint16_t)(one.out + k);
        }
    }
    return step;
}

static rgp_trace *allocate(const rgp_image_header *image)
{
    rgp_trace *t = g_malloc0(sizeof *t);
    t->image = image;
    t->step = decode(image);
    t->slot = g_malloc0_n(image->slots + 1, sizeof *t->slot);
    t->rule = g_malloc0_n(rgp_image_count(image, RGP_SECTION_RULES) + 1, sizeof *t->rule);
    t->actuator = g_malloc0_n(rgp_image_count(image, RGP_SECTION_ACTUATORS) + 1, sizeof *t->actuator);
    t->new_us = g_malloc0_n(rgp_image_count(image, RGP_SECTION_SENSORS) + 1, sizeof *t->new_us);
    t->loop = g_malloc0_n(rgp_image_count(image, RGP_SECTION_LOOPS) + 1, sizeof *t->loop);
    return t;
}

rgp_trace *rgp_trace_new(const rgp_image_header *image)
{
    rgp_trace *t = allocate(image);
    const rgp_event none = {.time_us = UINT64_MAX};
    t->stop = none;
    for (uint32_t i = 0; i < image->slots; i++) {
        t->slot[i].true_us = UINT64_MAX;
    }
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_RULES); i++) {
        t->rule[i].fired_us = UINT64_MAX;
    }
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_ACTUATORS); i++) {
        t->actuator[i] = (rgp_trace_actuator){.owner = RGP_OWNER_REST, .relief = none};
    }
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_SENSORS); i++) {
        t->new_us[i] = UINT64_MAX;
    }
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_LOOPS); i++) {
        t->loop[i] = none;
    }
    return t;
}

void rgp_trace_free(rgp_trace *t)
{
    if (t) {
        g_free(t->step);
        g_free(t->slot);
        g_free(t->rule);
        g_free(t->actuator);
        g_free(t->new_us);
        g_free(t->loop);
        g_free(t);
    }
}

static void take_values(rgp_trace *t, const float *value, const rgp_quality *quality, uint64_t now_us)
{
    for (uint32_t i = 0; i < t->image->slots; i++) {
        const rgp_truth is = !rgp_usable(quality[i]) ? RGP_TRUTH_UNKNOWN
                             : value[i] != 0.0f      ? RGP_TRUTH_TRUE
                                                     : RGP_TRUTH_FALSE;
        rgp_trace_slot *s = &t->slot[i];
        if (s->is != is) {
            s->is = is;
            s->since_us = now_us;
        }
        if (is == RGP_TRUTH_TRUE) {
            s->true_us = now_us;
        }
    }
}

/* All that it knows, piece by piece. */
enum { PARTS = 8 };
typedef struct part {
    void *at;
    size_t size;
} part;

static void parts_of(rgp_trace *t, part to[PARTS])
{
    const rgp_image_header *image = t->image;
    const part all[PARTS] = {{t->slot, image->slots * sizeof *t->slot},
                             {t->rule, rgp_image_count(image, RGP_SECTION_RULES) * sizeof *t->rule},
                             {t->actuator, rgp_image_count(image, RGP_SECTION_ACTUATORS) * sizeof *t->actuator},
                             {t->new_us, rgp_image_count(image, RGP_SECTION_SENSORS) * sizeof *t->new_us},
                             {t->loop, rgp_image_count(image, RGP_SECTION_LOOPS) * sizeof *t->loop},
                             {&t->stop, sizeof t->stop},
                             {&t->begin_us, sizeof t->begin_us},
                             {&t->any, sizeof t->any}};
    memcpy(to, all, sizeof all);
}

size_t rgp_trace_size(const rgp_trace *t)
{
    part all[PARTS];
    size_t size = 0;
    parts_of((rgp_trace *)(uintptr_t)t, all);
    for (size_t i = 0; i < PARTS; i++) {
        size += all[i].size;
    }
    return size;
}

void rgp_trace_save(const rgp_trace *t, uint8_t *to)
{
    part all[PARTS];
    parts_of((rgp_trace *)(uintptr_t)t, all);
    for (size_t i = 0; i < PARTS; to += all[i++].size) {
        memcpy(to, all[i].at, all[i].size);
    }
}

void rgp_trace_load(rgp_trace *t, const uint8_t *from)
{
    part all[PARTS];
    parts_of(t, all);
    for (size_t i = 0; i < PARTS; from += all[i++].size) {
        memcpy(all[i].at, from, all[i].size);
    }
}

void rgp_trace_put_back(rgp_trace *t, const rgp_trace *copy)
{
    part to[PARTS], from[PARTS];
    parts_of(t, to);
    parts_of((rgp_trace *)(uintptr_t)copy, from);
    for (size_t i = 0; i < PARTS; i++) {
        memcpy(to[i].at, from[i].at, to[i].size);
    }
}

rgp_trace *rgp_trace_copy(const rgp_trace *t)
{
    rgp_trace *copy = rgp_trace_new(t->image);
    rgp_trace_put_back(copy, t);
    return copy;
}

static void take_event(rgp_trace *t, const rgp_event *event)
{
    switch (event->kind) {
    case RGP_EVENT_FIRED:
        t->rule[event->source].fired++;
        t->rule[event->source].fired_us = event->time_us;
        break;
    case RGP_EVENT_DROPPED:
        t->rule[event->source].dropped++;
        break;
    case RGP_EVENT_ON_TIME_LIMIT:
    case RGP_EVENT_DUTY_LIMIT:
        t->actuator[event->source].relief = *event;
        break;
    case RGP_EVENT_STALLED: {
        const rgp_image_stall *stall = rgp_image_at(t->image, RGP_SECTION_STALLS);
        t->actuator[stall[event->source].actuator].relief = *event;
        break;
    }
    case RGP_EVENT_ENGAGED:
    case RGP_EVENT_HELD:
    case RGP_EVENT_TRIPPED:
        t->loop[event->source] = *event;
        break;
    case RGP_EVENT_STOPPED:
    case RGP_EVENT_RESUMED:
        t->stop = *event;
        break;
    default:
        break;
    }
}

void rgp_trace_frame(rgp_trace *t, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    const uint64_t now_us = frame->time_us;
    const uint16_t *owner = rgp_frame_owner(layout, frame);
    const uint8_t *newness = rgp_frame_newness(layout, frame);
    const rgp_event *event = rgp_frame_event(layout, frame);
    if (!t->any) {
        t->any = true;
        t->begin_us = now_us;
    }
    take_values(t, rgp_frame_value(layout, frame), rgp_frame_quality(layout, frame), now_us);
    for (uint32_t i = 0; i < layout->sensors; i++) {
        t->new_us[i] = newness[i] ? now_us : t->new_us[i];
    }
    for (uint32_t i = 0; i < layout->actuators; i++) {
        if (t->actuator[i].owner != owner[i]) {
            t->actuator[i].owner = owner[i];
            t->actuator[i].since_us = now_us;
        }
    }
    for (uint32_t i = 0; i < frame->events; i++) {
        take_event(t, &event[i]);
    }
}
