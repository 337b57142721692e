/* A tick on a port, and the way to rest. */
#include "rigpulse/engine.h"

#include "phase.h"
#include "sense.h"

static rp_status read_all(rp_engine *e, const rp_port *port)
{
    const inlet to = inlet_of(e);
    const uint32_t sensors = COUNT(e, SENSORS);
    for (uint32_t i = 0; i < sensors; i++) {
        rp_sample sample = {.quality = RP_MISSING};
        const rp_status status = port->read(port->self, (uint16_t)i, &sample);
        if (status != RP_OK) {
            return status;
        }
        sense_one(e, &to, i, &sample);
    }
    return port->health ? port->health(port->self) : RP_OK;
}

/* A port that cannot tell the edges of a switch leaves them to be found in its readings. */
static void read_edges(rp_engine *e, const rp_port *port, uint64_t until_us)
{
    for (uint32_t i = 0; i < COUNT(e, SENSORS); i++) {
        rp_port_edge edge[RP_EDGES_KEPT];
        uint16_t count = 0;
        uint32_t lost = 0;
        if (image_SENSORS(e)[i].timed &&
            port->edges(port->self, (uint16_t)i, until_us, edge, RP_EDGES_KEPT, &count, &lost) == RP_OK) {
            rp_engine_edges(e, (uint16_t)i, edge, count < RP_EDGES_KEPT ? count : RP_EDGES_KEPT, lost);
        }
    }
}

/* The number written for a value: turned round where the actuator is inverted. */
static float turned(const rp_image_actuator *a, float value)
{
    return a->inverted ? a->low + a->high - value : value;
}

float rp_engine_output(const rp_engine *e, uint16_t actuator)
{
    return actuator < COUNT(e, ACTUATORS)
               ? turned(&image_ACTUATORS(e)[actuator], e->value[rp_image_actuator_slot(e->image, actuator)])
               : 0.0f;
}

static rp_status write_all(const rp_engine *e, const rp_port *port)
{
    const rp_image_actuator *a = image_ACTUATORS(e);
    const float *value = e->value + rp_image_actuator_slot(e->image, 0);
    const uint32_t actuators = COUNT(e, ACTUATORS);
    for (uint32_t i = 0; i < actuators; i++) {
        const rp_status status = port->write(port->self, (uint16_t)i, turned(&a[i], value[i]));
        if (status != RP_OK) {
            return status;
        }
    }
    return RP_OK;
}

rp_status rp_engine_rest(rp_engine *e, const rp_port *port)
{
    rp_status first = RP_OK;
    for (uint32_t i = 0; i < COUNT(e, ACTUATORS); i++) {
        const rp_image_actuator *a = &image_ACTUATORS(e)[i];
        const rp_status status = port->write(port->self, (uint16_t)i, turned(a, a->rest));
        first = first == RP_OK ? status : first;
    }
    return first;
}

rp_status rp_engine_tick(rp_engine *e, const rp_port *port)
{
    if (port->version != RP_PORT_VERSION || !port->now || !port->read || !port->write) {
        return RP_E_ARGUMENT;
    }
    rp_status status = read_all(e, port);
    if (status == RP_OK) {
        const uint64_t now = port->now(port->self);
        if (part_head(e)->always & RP_DUE_EDGES && port->edges) {
            read_edges(e, port, now);
        }
        rp_engine_step(e, now);
        status = write_all(e, port);
    }
    if (status != RP_OK) {
        rp_engine_stop(e);
        rp_engine_rest(e, port);
    }
    return status;
}
