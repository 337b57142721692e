/* The layout of frames, and a frame taken of an engine. */
#include "rigpulse/frame.h"

#include <string.h>

#define EVENTS_SPARE 16u
#define EVENTS_MOST  2048u

static uint32_t least(uint32_t a, uint32_t b)
{
    return a < b ? a : b;
}

static size_t place(size_t *end, size_t count, size_t size)
{
    const size_t at = (*end + 7u) & ~(size_t)7u;
    *end = at + count * size;
    return at;
}

rgp_frame_layout rgp_frame_layout_of(const rgp_image_header *image)
{
    rgp_frame_layout s = {.slots = image->slots,
                          .sensors = rgp_image_count(image, RGP_SECTION_SENSORS),
                          .actuators = rgp_image_count(image, RGP_SECTION_ACTUATORS),
                          .rules = rgp_image_count(image, RGP_SECTION_RULES)};
    const rgp_image_sensor *sensor = rgp_image_at(image, RGP_SECTION_SENSORS);
    uint32_t edges = 0; /* told first in a tick, so they must not crowd out what follows */
    for (uint32_t i = 0; i < s.sensors; i++) {
        edges += sensor[i].timed ? RGP_EDGES_KEPT + 1u : 0u;
    }
    s.events =
        least(EVENTS_MOST,
              EVENTS_SPARE + s.sensors + edges + rgp_image_count(image, RGP_SECTION_RULES) +
                  rgp_image_count(image, RGP_SECTION_CLAIMS) + rgp_image_count(image, RGP_SECTION_ACTIONS) +
                  rgp_image_count(image, RGP_SECTION_GUARDS) + 2u * rgp_image_count(image, RGP_SECTION_SEQUENCES));
    size_t end = sizeof(rgp_frame);
    s.value = place(&end, s.slots + s.rules, sizeof(float));
    s.raw = place(&end, s.sensors, sizeof(int32_t));
    s.owner = place(&end, s.actuators, sizeof(uint16_t));
    s.quality = place(&end, s.slots + s.rules, sizeof(rgp_quality));
    s.newness = place(&end, s.sensors, 1);
    s.sample = place(&end, s.sensors, sizeof(rgp_sample));
    s.event = place(&end, s.events, sizeof(rgp_event));
    s.command = place(&end, RGP_FRAME_COMMANDS, sizeof(rgp_command));
    s.bytes = (end + 7u) & ~(size_t)7u;
    return s;
}

static float time_left(const rgp_rule_timing *rule)
{
    const float left = (float)rule->left_us * 1e-6f;
    return rule->phase == RGP_PULSE_HOLDOFF ? -left : left;
}

void rgp_frame_take(const rgp_frame_layout *layout, rgp_frame *frame, const rgp_engine *engine)
{
    frame->time_us = rgp_engine_now(engine);
    memcpy(rgp_frame_value(layout, frame), engine->value, layout->slots * sizeof(float));
    memcpy(rgp_frame_raw(layout, frame), engine->raw, layout->sensors * sizeof(int32_t));
    memcpy(rgp_frame_quality(layout, frame), engine->quality, layout->slots * sizeof(rgp_quality));
    for (uint32_t i = 0; i < layout->sensors; i++) {
        rgp_frame_newness(layout, frame)[i] = rgp_engine_is_new(engine, (uint16_t)i);
    }
    for (uint32_t i = 0; i < layout->actuators; i++) {
        rgp_frame_owner(layout, frame)[i] = rgp_engine_owner(engine, (uint16_t)i);
    }
    for (uint32_t i = 0; i < layout->rules; i++) {
        const rgp_rule_timing rule = rgp_engine_rule(engine, (uint16_t)i);
        rgp_frame_value(layout, frame)[layout->slots + i] = time_left(&rule);
        rgp_frame_quality(layout, frame)[layout->slots + i] = rule.blocked ? RGP_MISSING : RGP_GOOD;
    }
}

void rgp_frame_add_event(const rgp_frame_layout *layout, rgp_frame *frame, const rgp_event *event)
{
    if (frame->events < layout->events) {
        rgp_frame_event(layout, frame)[frame->events++] = *event;
    } else {
        frame->events_lost++;
    }
}

bool rgp_frame_add_command(const rgp_frame_layout *layout, rgp_frame *frame, const rgp_command *command)
{
    if (frame->commands >= RGP_FRAME_COMMANDS) {
        return false;
    }
    rgp_frame_command(layout, frame)[frame->commands++] = *command;
    return true;
}
