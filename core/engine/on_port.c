/* A tick on a port, and the way to rest. */
#include "rigpulse/engine.h"

#include "phase.h"
#include "sense.h"

static rgp_status read_samples(rgp_engine *e, const rgp_port *port)
{
    const inlet to = inlet_of(e);
    const uint32_t sensors = COUNT(e, SENSORS);
    for (uint32_t i = 0; i < sensors; i++) {
        rgp_sample sample = {.quality = RGP_MISSING};
        const rgp_status status = port->read(port->self, (uint16_t)i, &sample);
        if (status != RGP_OK) {
            return status;
        }
        take_raw(e, &to, i, &sample);
    }
    return RGP_OK;
}

/* Every sensor is read before anything is computed, so all of them are of one moment as far as the port can have it. A
 * port that fails ends the tick: half of the readings are none. */
static rgp_status read_all(rgp_engine *e, const rgp_port *port)
{
    rgp_status status = port->gather ? port->gather(port->self) : RGP_OK;
    if (status == RGP_OK) {
        status = read_samples(e, port);
        take_values(e);
    }
    return status == RGP_OK && port->health ? port->health(port->self) : status;
}

/* A port that cannot tell the edges of a switch leaves them to be found in its readings. */
static void read_edges(rgp_engine *e, const rgp_port *port, uint64_t until_us)
{
    for (uint32_t i = 0; i < COUNT(e, SENSORS); i++) {
        rgp_port_edge edge[RGP_EDGES_KEPT];
        uint16_t count = 0;
        uint32_t lost = 0;
        if (image_SENSORS(e)[i].timed &&
            port->edges(port->self, (uint16_t)i, until_us, edge, RGP_EDGES_KEPT, &count, &lost) == RGP_OK) {
            rgp_engine_edges(e, (uint16_t)i, edge, count < RGP_EDGES_KEPT ? count : RGP_EDGES_KEPT, lost);
        }
    }
}

/* The number written for a value: turned round where the actuator is inverted. */
static float turned(const rgp_image_actuator *a, float value)
{
    return a->inverted ? a->low + a->high - value : value;
}

float rgp_engine_output(const rgp_engine *e, uint16_t actuator)
{
    return actuator < COUNT(e, ACTUATORS)
               ? turned(&image_ACTUATORS(e)[actuator], e->value[rgp_image_actuator_slot(e->image, actuator)])
               : 0.0f;
}

static rgp_status commit(const rgp_port *port)
{
    return port->commit ? port->commit(port->self) : RGP_OK;
}

/* A failure of one actuator alone counts from the next tick on. */
static void note_written(rgp_engine *e, const rgp_port *port, rgp__actuator_state *is, bool taken)
{
    const uint16_t actuator = (uint16_t)(is - part_actuator(e));
    if (taken && is->lost) {
        rgp_engine_regain(e, actuator);
    } else if (!taken && !is->lost) {
        rgp_engine_lose(e, actuator); /* its way to rest is tried in the next tick */
        return;
    }
    is->due_us = part_head(e)->now_us + (taken ? port->repeat_us : RGP_LOST_RETRY_US);
}

/* In the order of the rig: what has changed, and what is due again. A lost port ends it: the caller then brings all to
 * rest. */
static rgp_status write_all(rgp_engine *e, const rgp_port *port)
{
    const rgp_image_actuator *a = image_ACTUATORS(e);
    rgp__actuator_state *is = part_actuator(e);
    const float *value = e->value + rgp_image_actuator_slot(e->image, 0), *const end = value + COUNT(e, ACTUATORS);
    const uint64_t now_us = part_head(e)->now_us;
    for (uint16_t i = 0; value < end; i++, a++, is++) {
        const float to = turned(a, *value++);
        if (now_us < is->due_us && (is->lost || to == is->written)) {
            continue;
        }
        const rgp_status status = port->write(port->self, i, to);
        if (status == RGP_E_PORT) {
            return status;
        }
        is->written = to;
        if (status != RGP_OK || is->lost || port->repeat_us > 0) {
            note_written(e, port, is, status == RGP_OK);
        }
    }
    return commit(port);
}

/* Does not ask what was written last: a port that was lost may have lost that, too. */
rgp_status rgp_engine_rest(rgp_engine *e, const rgp_port *port)
{
    rgp_status first = RGP_OK;
    for (uint32_t i = 0; i < COUNT(e, ACTUATORS); i++) {
        const rgp_image_actuator *a = &image_ACTUATORS(e)[i];
        const rgp_status status = port->write(port->self, (uint16_t)i, turned(a, a->rest));
        part_actuator(e)[i].due_us = 0;
        first = first == RGP_OK ? status : first;
    }
    const rgp_status committed = commit(port);
    return first == RGP_OK ? committed : first;
}

/* A watchdog is not told of a tick that took longer than there was. */
static void tell_alive(const rgp_engine *e, const rgp_port *port, uint64_t begun_us)
{
    if (port->alive && port->now(port->self) - begun_us < e->image->tick_us) {
        port->alive(port->self);
    }
}

/* The time is asked behind the readings, so no reading is from the future. Edges are moved up to that time, and later
 * ones wait for the next tick. */
rgp_status rgp_engine_tick(rgp_engine *e, const rgp_port *port)
{
    if (port->version != RGP_PORT_VERSION || !port->now || !port->read || !port->write) {
        return RGP_E_ARGUMENT;
    }
    const uint64_t begun = port->alive ? port->now(port->self) : 0;
    rgp_status status = read_all(e, port);
    if (status == RGP_OK) {
        const uint64_t now = port->now(port->self);
        if (part_head(e)->always & RGP__DUE_EDGES && port->edges) {
            read_edges(e, port, now);
        }
        rgp_engine_step(e, now);
        status = write_all(e, port);
    }
    if (status != RGP_OK) {
        rgp_engine_stop(e);
        rgp_engine_rest(e, port);
    } else {
        tell_alive(e, port, begun);
    }
    return status;
}
