/* Inside the engine: the one way in for readings. */
#ifndef RIGPULSE_ENGINE_SENSE_H
#define RIGPULSE_ENGINE_SENSE_H

#include "inside.h"

/* The quality of a sensor; a change of it is an event. */
static inline void accept_reading(const rgp_engine *e, uint32_t sensor, rgp_quality quality)
{
    const uint32_t slot = rgp_image_sensor_slot(e->image, sensor);
    rgp_quality *const at = &part_quality(e)[slot];
    if (*at != quality) {
        *at = quality;
        const bool plain = quality == RGP_GOOD && !image_SENSORS(e)[sensor].supervised;
        uint8_t *const newness = &part_newness(e)[sensor];
        *newness = (uint8_t)((*newness & ~RGP__SENSOR_PLAIN) | (plain ? RGP__SENSOR_PLAIN : 0));
        if (part_head(e)->ticks > 0 || quality != RGP_GOOD) {
            raise_event(e, RGP_EVENT_SENSOR, quality, sensor, e->value[slot]);
        }
    }
}

/* The places that a sample goes to. */
typedef struct inlet {
    const rgp_image_sensor *sensor;
    uint8_t *newness;
    int32_t *raw;
} inlet;

static inline inlet inlet_of(const rgp_engine *e)
{
    return (inlet){image_SENSORS(e), part_newness(e), part_raw(e)};
}

/* A sample that cannot go the short way of take_raw(). */
void rgp__engine_sense_any(rgp_engine *e, uint32_t sensor, const rgp_sample *sample);

/* Most samples of most sensors are good, as the last one was, and held against nothing but their range. The value
 * follows by take_values(), for all sensors in one go. */
static inline void take_raw(rgp_engine *e, const inlet *to, uint32_t sensor, const rgp_sample *sample)
{
    const rgp_supervision_config *const range = &to->sensor[sensor].supervision;
    const int32_t raw = sample->raw;
    if (sample->same) {
        return;
    }
    to->newness[sensor] &= RGP__SENSOR_PLAIN;
    if (!to->newness[sensor] || sample->quality != RGP_GOOD || raw < range->low || raw > range->high) {
        rgp__engine_sense_any(e, sensor, sample);
        return;
    }
    to->raw[sensor] = raw;
}

/* The value of each sensor is its number as a float; four by four, which compilers make one instruction of. */
static inline void take_values(const rgp_engine *e)
{
    const int32_t *raw = part_raw(e);
    float *value = part_value(e) + rgp_image_sensor_slot(e->image, 0);
    uint32_t left = COUNT(e, SENSORS);
    for (; left >= 4u; left -= 4u, raw += 4, value += 4) {
        for (uint32_t k = 0; k < 4u; k++) {
            value[k] = (float)raw[k];
        }
    }
    for (; left > 0; left--) {
        *value++ = (float)*raw++;
    }
}

#endif
