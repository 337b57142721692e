/* Inside the engine: the one way in for readings. */
#ifndef RIGPULSE_ENGINE_SENSE_H
#define RIGPULSE_ENGINE_SENSE_H

#include "inside.h"

/* The quality of a sensor; a change of it is an event. */
static inline void judge(const rp_engine *e, uint32_t sensor, rp_quality quality)
{
    const uint32_t slot = rp_image_sensor_slot(e->image, sensor);
    rp_quality *const at = &part_quality(e)[slot];
    if (*at != quality) {
        *at = quality;
        const bool plain = quality == RP_GOOD && !image_SENSORS(e)[sensor].vetted;
        uint8_t *const newness = &part_newness(e)[sensor];
        *newness = (uint8_t)((*newness & ~RP_SENSOR_PLAIN) | (plain ? RP_SENSOR_PLAIN : 0));
        if (part_head(e)->ticks > 0 || quality != RP_GOOD) {
            tell(e, RP_EVENT_SENSOR, quality, sensor, e->value[slot]);
        }
    }
}

/* The places that a sample goes to. */
typedef struct inlet {
    const rp_image_sensor *sensor;
    uint8_t *newness;
    int32_t *raw;
    float *value;
} inlet;

static inline inlet inlet_of(const rp_engine *e)
{
    return (inlet){image_SENSORS(e), part_newness(e), part_raw(e), part_value(e) + rp_image_sensor_slot(e->image, 0)};
}

/* A sample that cannot go the short way of sense_one(). */
void rp_engine_sense_any(rp_engine *e, uint32_t sensor, const rp_sample *sample);

/* Most samples of most sensors are good, as the last one was, and held against nothing but their range. */
static inline void sense_one(rp_engine *e, const inlet *to, uint32_t sensor, const rp_sample *sample)
{
    const rp_vet_config *const range = &to->sensor[sensor].vet;
    const int32_t raw = sample->raw;
    if (sample->same) {
        return;
    }
    to->newness[sensor] &= RP_SENSOR_PLAIN;
    if (to->newness[sensor] && sample->quality == RP_GOOD && raw >= range->low && raw <= range->high) {
        to->raw[sensor] = raw;
        to->value[sensor] = (float)raw;
    } else {
        rp_engine_sense_any(e, sensor, sample);
    }
}

#endif
