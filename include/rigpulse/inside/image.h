/* The inside of rigpulse/image.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_IMAGE_H
#define RIGPULSE_INSIDE_IMAGE_H

#include "rigpulse/image.h"

RGP_DECLARATIONS_BEGIN

static inline uint64_t rgp_image_name_key(const rgp_image_name *name)
{
    return (uint64_t)name->kind << 32 | (uint32_t)name->index << 16 | name->part;
}

static inline int rgp_action_drives(uint32_t kind)
{
    return kind <= RGP_ACTION_TIMED || kind == RGP_ACTION_TOGGLE || kind == RGP_ACTION_STEP;
}

static inline bool rgp_image_by_lanes(const rgp_image_run *run)
{
    return run->way >= RGP_WAY_LANES;
}

static inline uint32_t rgp_image_behind_states(const rgp_image_run *run)
{
    return (run->state + (uint32_t)run->count * run->state_stride + 7u) & ~7u;
}

static inline const void *rgp_image_at(const rgp_image_header *image, uint32_t section)
{
    return (const unsigned char *)image + image->section[section].offset;
}

static inline uint32_t rgp_image_count(const rgp_image_header *image, uint32_t section)
{
    return image->section[section].count;
}

static inline uint32_t rgp_image_sensor_slot(const rgp_image_header *image, uint32_t sensor)
{
    return rgp_image_count(image, RGP_SECTION_PARAMS) + sensor;
}

static inline uint32_t rgp_image_actuator_slot(const rgp_image_header *image, uint32_t actuator)
{
    return rgp_image_sensor_slot(image, rgp_image_count(image, RGP_SECTION_SENSORS)) + actuator;
}

static inline uint32_t rgp_image_state_slot(const rgp_image_header *image, uint32_t state)
{
    return rgp_image_actuator_slot(image, rgp_image_count(image, RGP_SECTION_ACTUATORS)) + state;
}

static inline const rgp_image_loop *rgp_image_loop_at(const rgp_image_header *image, uint32_t number)
{
    return (const rgp_image_loop *)rgp_image_at(image, RGP_SECTION_LOOPS) + number;
}

RGP_DECLARATIONS_END

#endif
