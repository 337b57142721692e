/* A frame: all that one tick left behind, as one flat block. */
#ifndef RIGPULSE_FRAME_H
#define RIGPULSE_FRAME_H

#include "rigpulse/command.h"
#include "rigpulse/linkage.h"

#include <stddef.h>

RGP_DECLARATIONS_BEGIN

typedef struct rgp_frame {
    uint64_t time_us;
    uint64_t number; /* of the tick, from 0 */
    uint32_t events;
    uint32_t events_lost; /* more than the frame has room for */
    uint32_t commands;
} rgp_frame;

#define RGP_FRAME_COMMANDS 16u /* in one tick; more wait for the next */

/* The places of the parts of a rig's frames, in bytes from the start. */
typedef struct rgp_frame_layout {
    uint32_t slots, sensors, actuators, rules, events;
    size_t value, raw, owner, quality, newness, sample, event, command, bytes;
} rgp_frame_layout;

rgp_frame_layout rgp_frame_layout_of(const rgp_image_header *image);

/* By slot, and behind the slots by rule: the seconds that it is still acting, less those that it is in its holdoff; 0:
 * ready. The quality of a rule is bad while a fault keeps it from firing. */
static inline float *rgp_frame_value(const rgp_frame_layout *layout, const rgp_frame *frame)
{
    return (float *)(void *)((char *)frame + layout->value);
}

static inline int32_t *rgp_frame_raw(const rgp_frame_layout *layout, const rgp_frame *frame)
{
    return (int32_t *)(void *)((char *)frame + layout->raw);
}

static inline uint16_t *rgp_frame_owner(const rgp_frame_layout *layout, const rgp_frame *frame)
{
    return (uint16_t *)(void *)((char *)frame + layout->owner);
}

static inline rgp_quality *rgp_frame_quality(const rgp_frame_layout *layout, const rgp_frame *frame)
{
    return (rgp_quality *)((char *)frame + layout->quality);
}

/* By sensor: 1 when it had a new sample. */
static inline uint8_t *rgp_frame_newness(const rgp_frame_layout *layout, const rgp_frame *frame)
{
    return (uint8_t *)((char *)frame + layout->newness);
}

/* By sensor: its newest sample as the port has given it, before it is judged. */
static inline rgp_sample *rgp_frame_sample(const rgp_frame_layout *layout, const rgp_frame *frame)
{
    return (rgp_sample *)(void *)((char *)frame + layout->sample);
}

static inline rgp_event *rgp_frame_event(const rgp_frame_layout *layout, const rgp_frame *frame)
{
    return (rgp_event *)(void *)((char *)frame + layout->event);
}

/* The commands that counted from this tick on, in the order in which they were obeyed. */
static inline rgp_command *rgp_frame_command(const rgp_frame_layout *layout, const rgp_frame *frame)
{
    return (rgp_command *)(void *)((char *)frame + layout->command);
}

/* Copies what the engine holds after a tick; samples, events and commands are already in the frame. */
void rgp_frame_take(const rgp_frame_layout *layout, rgp_frame *frame, const rgp_engine *engine);

void rgp_frame_add_event(const rgp_frame_layout *layout, rgp_frame *frame, const rgp_event *event);

/* False when there is no room for another one. */
bool rgp_frame_add_command(const rgp_frame_layout *layout, rgp_frame *frame, const rgp_command *command);

RGP_DECLARATIONS_END

#endif
