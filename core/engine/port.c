/* A tick on a port, and the way to rest. */
#include "rigpulse/engine.h"

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
        const rp_status status = port->write(port->self, (uint16_t)i, e->actuator[i].rest);
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
        rp_engine_step(e, port->now(port->self));
        status = write_all(e, port);
    }
    if (status != RP_OK) {
        rp_engine_stop(e);
        rp_engine_rest(e, port);
    }
    return status;
}
