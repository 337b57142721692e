/* A frame: all that one tick left behind, as one flat block. */
#ifndef RIGPULSE_FRAME_H
#define RIGPULSE_FRAME_H

#include "rigpulse/command.h"

#include <stddef.h>

typedef struct rp_frame {
    uint64_t time_us;
    uint64_t number; /* of the tick, from 0 */
    uint32_t events;
    uint32_t events_lost; /* more than the frame has room for */
    uint32_t commands;
} rp_frame;

#define RP_FRAME_COMMANDS 16u /* in one tick; more wait for the next */

/* The places of the parts of a rig's frames, in bytes from the start. */
typedef struct rp_frame_shape {
    uint32_t slots, sensors, actuators, rules, events;
    size_t value, raw, owner, quality, newness, sample, event, command, bytes;
} rp_frame_shape;

rp_frame_shape rp_frame_shape_of(const rp_image_header *image);

/* By slot, and behind the slots by rule: the seconds that it is still acting, less those that it is in its holdoff; 0:
 * ready. The quality of a rule is bad while a fault keeps it from firing. */
static inline float *rp_frame_value(const rp_frame_shape *shape, const rp_frame *frame)
{
    return (float *)(void *)((char *)frame + shape->value);
}

static inline int32_t *rp_frame_raw(const rp_frame_shape *shape, const rp_frame *frame)
{
    return (int32_t *)(void *)((char *)frame + shape->raw);
}

static inline uint16_t *rp_frame_owner(const rp_frame_shape *shape, const rp_frame *frame)
{
    return (uint16_t *)(void *)((char *)frame + shape->owner);
}

static inline rp_quality *rp_frame_quality(const rp_frame_shape *shape, const rp_frame *frame)
{
    return (rp_quality *)((char *)frame + shape->quality);
}

/* By sensor: 1 when it had a new sample. */
static inline uint8_t *rp_frame_newness(const rp_frame_shape *shape, const rp_frame *frame)
{
    return (uint8_t *)((char *)frame + shape->newness);
}

/* By sensor: its newest sample as the port has given it, before it is judged. */
static inline rp_sample *rp_frame_sample(const rp_frame_shape *shape, const rp_frame *frame)
{
    return (rp_sample *)(void *)((char *)frame + shape->sample);
}

static inline rp_event *rp_frame_event(const rp_frame_shape *shape, const rp_frame *frame)
{
    return (rp_event *)(void *)((char *)frame + shape->event);
}

/* The commands that counted from this tick on, in the order in which they were obeyed. */
static inline rp_command *rp_frame_command(const rp_frame_shape *shape, const rp_frame *frame)
{
    return (rp_command *)(void *)((char *)frame + shape->command);
}

/* Copies what the engine holds after a tick; samples, events and commands are already in the frame. */
void rp_frame_take(const rp_frame_shape *shape, rp_frame *frame, const rp_engine *engine);

void rp_frame_add_event(const rp_frame_shape *shape, rp_frame *frame, const rp_event *event);

/* False when there is no room for another one. */
bool rp_frame_add_command(const rp_frame_shape *shape, rp_frame *frame, const rp_command *command);

#endif
