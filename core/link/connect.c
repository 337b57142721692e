/* A port learns which channels the rig has. */
#include "rigpulse/engine.h"

static const char *name_of(const rgp_image_header *image, uint32_t slot)
{
    return rgp_image_name_of(image, RGP_NAME_SLOT, slot, 0) ? rgp_image_text(image, RGP_NAME_SLOT, slot, 0) : "";
}

static rgp_port_channel sensor_of(const rgp_image_header *image, uint32_t i)
{
    const rgp_image_sensor *s = (const rgp_image_sensor *)rgp_image_at(image, RGP_SECTION_SENSORS) + i;
    return (rgp_port_channel){.name = name_of(image, rgp_image_sensor_slot(image, i)),
                              .index = (uint16_t)i,
                              .kind = s->kind,
                              .low = (float)s->supervision.low,
                              .high = (float)s->supervision.high};
}

static rgp_port_channel actuator_of(const rgp_image_header *image, uint32_t i)
{
    const rgp_image_actuator *a = (const rgp_image_actuator *)rgp_image_at(image, RGP_SECTION_ACTUATORS) + i;
    return (rgp_port_channel){.name = name_of(image, rgp_image_actuator_slot(image, i)),
                              .index = (uint16_t)i,
                              .actuator = 1,
                              .kind = a->kind,
                              .low = a->low,
                              .high = a->high,
                              .rest = a->inverted ? a->low + a->high - a->rest : a->rest};
}

rgp_status rgp_engine_connect(const rgp_engine *e, const rgp_port *port, rgp_port_channel *refused)
{
    const uint32_t sensors = rgp_image_count(e->image, RGP_SECTION_SENSORS),
                   actuators = rgp_image_count(e->image, RGP_SECTION_ACTUATORS);
    for (uint32_t i = 0; port->open && i < sensors + actuators; i++) {
        const rgp_port_channel channel = i < sensors ? sensor_of(e->image, i) : actuator_of(e->image, i - sensors);
        const rgp_status status = port->open(port->self, &channel);
        if (status != RGP_OK) {
            if (refused) {
                *refused = channel;
            }
            return status;
        }
    }
    return RGP_OK;
}
