#include "sense.h"

void rp_engine_sense_any(rp_engine *e, uint32_t sensor, const rp_sample *sample)
{
    const rp_image_sensor *s = &image_SENSORS(e)[sensor];
    const int32_t raw = sample->raw;
    rp_quality quality = sample->quality;
    if (rp_usable(quality)) {
        part_raw(e)[sensor] = raw;
        part_value(e)[rp_image_sensor_slot(e->image, sensor)] = (float)raw;
        if (raw < s->vet.low || raw > s->vet.high) {
            quality = RP_OUT_OF_RANGE;
        }
    } else if (quality >= RP_QUALITIES) {
        quality = RP_MISSING;
    }
    if (s->vetted) {
        rp_vet_state *const vet = &part_watch(e)[s->vetted - 1].vet;
        vet->sample = *sample;
        vet->fresh = 1;
    } else {
        judge(e, sensor, quality);
    }
}

rp_status rp_engine_sense(rp_engine *e, uint16_t sensor, const rp_sample *sample)
{
    if (sensor >= COUNT(e, SENSORS)) {
        return RP_E_INDEX;
    }
    const inlet to = inlet_of(e);
    sense_one(e, &to, sensor, sample);
    return RP_OK;
}
