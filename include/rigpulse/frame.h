/* A frame: all that one tick left behind, as one flat block, which can be copied, queued, and sent over a wire. A frame
 * and its layout belong to the caller; the functions here only find and fill its parts.
 *
 * Pointers that they return point into the frame, and are good as long as it is. Each takes constant time and needs no
 * memory of its own; a frame is for one thread at a time. */
#ifndef RIGPULSE_FRAME_H
#define RIGPULSE_FRAME_H

#include "rigpulse/command.h"
#include "rigpulse/linkage.h"

#include <stddef.h>

RGP_DECLARATIONS_BEGIN

/* Its beginning; the parts stand behind it, where the layout says. */
typedef struct rgp_frame {
    uint64_t time_us;     /* of the tick, on the port's clock */
    uint64_t number;      /* of the tick, from 0 */
    uint32_t events;      /* that are in it */
    uint32_t events_lost; /* more than the frame has room for */
    uint32_t commands;    /* likewise */
} rgp_frame;

#define RGP_FRAME_COMMANDS 16u /* in one tick; more wait for the next */

/* The places of the parts of a rig's frames, in bytes from the start. */
typedef struct rgp_frame_layout {
    uint32_t slots, sensors, actuators, rules, events; /* how many there are; of events, how many there is room for */
    size_t value, raw, owner, quality, newness, sample, event, command, bytes; /* places; the whole */
} rgp_frame_layout;

/* Of the frames of an image, which has been verified. */
rgp_frame_layout rgp_frame_layout_of(const rgp_image_header *image);

/* By slot, and behind the slots by rule: the seconds that it is still acting, less those that it is in its holdoff; 0:
 * ready. The quality of a rule is bad while a fault keeps it from firing. */
static inline float *rgp_frame_value(const rgp_frame_layout *layout, const rgp_frame *frame);

/* By sensor: the whole number of its last sample that the port did not call bad. */
static inline int32_t *rgp_frame_raw(const rgp_frame_layout *layout, const rgp_frame *frame);

/* By actuator: its owner, as rgp_engine_owner() gives it. */
static inline uint16_t *rgp_frame_owner(const rgp_frame_layout *layout, const rgp_frame *frame);

/* By slot, and behind the slots by rule, as the values. */
static inline rgp_quality *rgp_frame_quality(const rgp_frame_layout *layout, const rgp_frame *frame);

/* By sensor: 1 when it had a new sample. */
static inline uint8_t *rgp_frame_newness(const rgp_frame_layout *layout, const rgp_frame *frame);

/* By sensor: its newest sample as the port has given it, before it is judged. */
static inline rgp_sample *rgp_frame_sample(const rgp_frame_layout *layout, const rgp_frame *frame);

/* The events of the tick, in the order in which they happened. */
static inline rgp_event *rgp_frame_event(const rgp_frame_layout *layout, const rgp_frame *frame);

/* The commands that counted from this tick on, in the order in which they were obeyed. */
static inline rgp_command *rgp_frame_command(const rgp_frame_layout *layout, const rgp_frame *frame);

/* Copies what the engine holds after a tick; samples, events and commands are already in the frame. */
void rgp_frame_take(const rgp_frame_layout *layout, rgp_frame *frame, const rgp_engine *engine);

/* Behind those that are in it; one without room is counted in `events_lost`. */
void rgp_frame_add_event(const rgp_frame_layout *layout, rgp_frame *frame, const rgp_event *event);

/* False when there is no room for another one. */
bool rgp_frame_add_command(const rgp_frame_layout *layout, rgp_frame *frame, const rgp_command *command);

RGP_DECLARATIONS_END

#include "rigpulse/inside/frame.h"

#endif
