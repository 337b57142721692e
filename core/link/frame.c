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

rp_frame_shape rp_frame_shape_of(const rp_image_header *image)
{
    rp_frame_shape s = {.slots = image->slots,
                        .sensors = rp_image_count(image, RP_SECTION_SENSORS),
                        .actuators = rp_image_count(image, RP_SECTION_ACTUATORS),
                        .rules = rp_image_count(image, RP_SECTION_RULES)};
    const rp_image_sensor *sensor = rp_image_at(image, RP_SECTION_SENSORS);
    uint32_t edges = 0; /* told first in a tick, so they must not crowd out what follows */
    for (uint32_t i = 0; i < s.sensors; i++) {
        edges += sensor[i].timed ? RP_EDGES_KEPT + 1u : 0u;
    }
    s.events = least(EVENTS_MOST,
                     EVENTS_SPARE + s.sensors + edges + rp_image_count(image, RP_SECTION_RULES) +
                         rp_image_count(image, RP_SECTION_CLAIMS) + rp_image_count(image, RP_SECTION_ACTIONS) +
                         rp_image_count(image, RP_SECTION_GUARDS) + 2u * rp_image_count(image, RP_SECTION_SEQUENCES));
    size_t end = sizeof(rp_frame);
    s.value = place(&end, s.slots + s.rules, sizeof(float));
    s.raw = place(&end, s.sensors, sizeof(int32_t));
    s.owner = place(&end, s.actuators, sizeof(uint16_t));
    s.quality = place(&end, s.slots + s.rules, sizeof(rp_quality));
    s.newness = place(&end, s.sensors, 1);
    s.sample = place(&end, s.sensors, sizeof(rp_sample));
    s.event = place(&end, s.events, sizeof(rp_event));
    s.command = place(&end, RP_FRAME_COMMANDS, sizeof(rp_command));
    s.bytes = (end + 7u) & ~(size_t)7u;
    return s;
}

static float time_left(const rp_rule_timing *rule)
{
    const float left = (float)rule->left_us * 1e-6f;
    return rule->phase == RP_PULSE_HOLDOFF ? -left : left;
}

void rp_frame_take(const rp_frame_shape *shape, rp_frame *frame, const rp_engine *engine)
{
    frame->time_us = rp_engine_now(engine);
    memcpy(rp_frame_value(shape, frame), engine->value, shape->slots * sizeof(float));
    memcpy(rp_frame_raw(shape, frame), engine->raw, shape->sensors * sizeof(int32_t));
    memcpy(rp_frame_quality(shape, frame), engine->quality, shape->slots * sizeof(rp_quality));
    for (uint32_t i = 0; i < shape->sensors; i++) {
        rp_frame_newness(shape, frame)[i] = rp_engine_is_new(engine, (uint16_t)i);
    }
    for (uint32_t i = 0; i < shape->actuators; i++) {
        rp_frame_owner(shape, frame)[i] = rp_engine_owner(engine, (uint16_t)i);
    }
    for (uint32_t i = 0; i < shape->rules; i++) {
        const rp_rule_timing rule = rp_engine_rule(engine, (uint16_t)i);
        rp_frame_value(shape, frame)[shape->slots + i] = time_left(&rule);
        rp_frame_quality(shape, frame)[shape->slots + i] = rule.blocked ? RP_MISSING : RP_GOOD;
    }
}

void rp_frame_add_event(const rp_frame_shape *shape, rp_frame *frame, const rp_event *event)
{
    if (frame->events < shape->events) {
        rp_frame_event(shape, frame)[frame->events++] = *event;
    } else {
        frame->events_lost++;
    }
}

bool rp_frame_add_command(const rp_frame_shape *shape, rp_frame *frame, const rp_command *command)
{
    if (frame->commands >= RP_FRAME_COMMANDS) {
        return false;
    }
    rp_frame_command(shape, frame)[frame->commands++] = *command;
    return true;
}
