/* Samples of sensors on their way in. */
#include "sense.h"

/* The value of a bad sample is not taken over: the last good number stands, with the quality of now. A sensor that is
 * supervised is judged later in the tick, when its time is known. */
void rgp__engine_sense_any(rgp_engine *e, uint32_t sensor, const rgp_sample *sample)
{
    const rgp_image_sensor *s = &image_SENSORS(e)[sensor];
    const int32_t raw = sample->raw;
    rgp_quality quality = sample->quality;
    if (rgp_usable(quality)) {
        part_raw(e)[sensor] = raw;
        part_value(e)[rgp_image_sensor_slot(e->image, sensor)] = (float)raw;
        if (raw < s->supervision.low || raw > s->supervision.high) {
            quality = RGP_OUT_OF_RANGE;
        }
    } else if (quality >= RGP_QUALITIES) {
        quality = RGP_MISSING;
    }
    if (s->supervised) {
        rgp_supervision_state *const supervision = &part_watch(e)[s->supervised - 1].supervision;
        supervision->sample = *sample;
        supervision->fresh = 1;
    } else {
        accept_reading(e, sensor, quality);
    }
}

rgp_status rgp_engine_sense(rgp_engine *e, uint16_t sensor, const rgp_sample *sample)
{
    if (sensor >= COUNT(e, SENSORS)) {
        return RGP_E_INDEX;
    }
    const inlet to = inlet_of(e);
    take_raw(e, &to, sensor, sample);
    part_value(e)[rgp_image_sensor_slot(e->image, sensor)] = (float)part_raw(e)[sensor];
    return RGP_OK;
}
