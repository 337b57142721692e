/* A tick on a port, and the way to rest. */
#include "rigpulse/engine.h"

#include "shape.h"

static rp_status read_all(rp_engine *e, const rp_port *port)
{
    for (uint32_t i = 0; i < e->sensors; i++) {
        rp_sample sample = {0, 0, RP_MISSING};
        const rp_status status = port->read(port->self, (uint16_t)i, &sample);
        if (status != RP_OK) {
            return status;
        }
        rp_engine_sense(e, (uint16_t)i, &sample);
    }
    return port->health ? port->health(port->self) : RP_OK;
}

/* A port that cannot tell the edges of a switch leaves them to be found in its readings. */
static void read_edges(rp_engine *e, const rp_port *port, uint64_t until_us)
{
    for (uint32_t i = 0; i < e->sensors; i++) {
        rp_port_edge edge[RP_EDGES_KEPT];
        uint16_t count = 0;
        uint32_t lost = 0;
        if (e->sensor[i].timed &&
            port->edges(port->self, (uint16_t)i, until_us, edge, RP_EDGES_KEPT, &count, &lost) == RP_OK) {
            rp_engine_edges(e, (uint16_t)i, edge, count < RP_EDGES_KEPT ? count : RP_EDGES_KEPT, lost);
        }
    }
}

static rp_status write_all(const rp_engine *e, const rp_port *port)
{
    for (uint32_t i = 0; i < e->actuators; i++) {
        const rp_status status = port->write(port->self, (uint16_t)i, rp_engine_output(e, (uint16_t)i));
        if (status != RP_OK) {
            return status;
        }
    }
    return RP_OK;
}

rp_status rp_engine_rest(rp_engine *e, const rp_port *port)
{
    rp_status first = RP_OK;
    for (uint32_t i = 0; i < e->actuators; i++) {
        const rp_image_actuator *a = &e->actuator[i];
        const rp_status status = port->write(port->self, (uint16_t)i, rp_engine_written(a, a->rest));
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
        if (e->timed && port->edges) {
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
