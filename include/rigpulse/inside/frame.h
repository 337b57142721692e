/* The inside of rigpulse/frame.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_FRAME_H
#define RIGPULSE_INSIDE_FRAME_H

#include "rigpulse/frame.h"

RGP_DECLARATIONS_BEGIN

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

static inline uint8_t *rgp_frame_newness(const rgp_frame_layout *layout, const rgp_frame *frame)
{
    return (uint8_t *)((char *)frame + layout->newness);
}

static inline rgp_sample *rgp_frame_sample(const rgp_frame_layout *layout, const rgp_frame *frame)
{
    return (rgp_sample *)(void *)((char *)frame + layout->sample);
}

static inline rgp_event *rgp_frame_event(const rgp_frame_layout *layout, const rgp_frame *frame)
{
    return (rgp_event *)(void *)((char *)frame + layout->event);
}

static inline rgp_command *rgp_frame_command(const rgp_frame_layout *layout, const rgp_frame *frame)
{
    return (rgp_command *)(void *)((char *)frame + layout->command);
}

RGP_DECLARATIONS_END

#endif
