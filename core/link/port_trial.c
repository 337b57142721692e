/* The trial of a port, tick by tick, as an engine would use it. */
#include "rigpulse/port_trial.h"

#include "rigpulse/image.h"

typedef struct trying {
    const rgp_port_trial *t;
    const rgp_port *port;
    const rgp_image_header *image;
    rgp_port_result *result;
    uint64_t now_us, tick_us;
    uint16_t sensors, actuators;
    bool lost;
} trying;

const char *rgp_port_fault_text(rgp_port_fault fault)
{
    static const char *const text[RGP_PORT_FAULTS] = {
#define RGP_PORT_FAULT_TEXT(name, words) words,
        RGP_PORT_FAULT_LIST(RGP_PORT_FAULT_TEXT)
#undef RGP_PORT_FAULT_TEXT
    };
    return (uint32_t)fault < RGP_PORT_FAULTS ? text[fault] : "?";
}

/* Once a channel; what concerns no sensor is noted behind them all. */
static void find(const trying *y, rgp_port_fault fault, uint16_t sensor, uint16_t channel)
{
    rgp_port_trace *trace = &y->t->trace[sensor < y->sensors ? sensor : y->sensors];
    if (trace->told >> fault & 1u) {
        return;
    }
    trace->told |= 1u << fault;
    y->result->faults++;
    if (y->t->found) {
        y->t->found(y->t->self, fault, channel);
    }
}

static void find_of_sensor(const trying *y, rgp_port_fault fault, uint16_t sensor)
{
    find(y, fault, sensor, sensor);
}

static void find_of_port(const trying *y, rgp_port_fault fault, uint16_t channel)
{
    find(y, fault, y->sensors, channel);
}

static void look_at_clock(trying *y)
{
    const uint64_t now = y->port->now(y->port->self);
    if (now < y->now_us) {
        find_of_port(y, RGP_PORT_CLOCK_BACK, RGP_PORT_NO_CHANNEL);
    }
    y->now_us = now > y->now_us ? now : y->now_us;
}

/* Judges, and returns, the time that a call took since `begun_us`. */
static uint64_t look_at_time(trying *y, uint64_t begun_us, uint16_t channel)
{
    look_at_clock(y);
    const uint64_t took = y->now_us - begun_us;
    if (took > y->tick_us) {
        find_of_port(y, RGP_PORT_SLOW, channel);
    }
    return took;
}

static void look_at_status(trying *y, rgp_status status, uint16_t channel)
{
    if (status == RGP_E_PORT) {
        y->lost = true;
        find_of_port(y, RGP_PORT_LOST, channel);
    }
}

/* ---- samples --------------------------------------------------------------------------------------- */

static bool is_switch(const trying *y, uint16_t sensor)
{
    return ((const rgp_image_sensor *)rgp_image_at(y->image, RGP_SECTION_SENSORS))[sensor].kind == RGP_SENSOR_SWITCH;
}

static void look_at_good(const trying *y, uint16_t sensor, const rgp_sample *is)
{
    const rgp_port_trace *trace = &y->t->trace[sensor];
    if (is->time_us > y->now_us) {
        find_of_sensor(y, RGP_PORT_FUTURE, sensor);
    }
    if (is_switch(y, sensor) && is->raw != 0 && is->raw != 1) {
        find_of_sensor(y, RGP_PORT_NO_SWITCH, sensor);
    }
    if (is->same && (!trace->any || is->raw != trace->last.raw || is->time_us != trace->last.time_us)) {
        find_of_sensor(y, RGP_PORT_NOT_SAME, sensor);
    }
    if (!is->same && trace->any && is->time_us < trace->last.time_us) {
        find_of_sensor(y, RGP_PORT_SAMPLE_BACK, sensor);
    }
}

static void look_at_sample(const trying *y, uint16_t sensor, const rgp_sample *is)
{
    rgp_port_trace *trace = &y->t->trace[sensor];
    if (is->quality != RGP_GOOD && is->quality != RGP_MISSING) {
        find_of_sensor(y, RGP_PORT_QUALITY, sensor);
    }
    if (is->quality != RGP_GOOD) {
        y->result->missing++;
        return;
    }
    look_at_good(y, sensor, is);
    y->result->fresh += !is->same;
    y->result->standing += is->same;
    trace->last = *is;
    trace->any = 1;
}

/* One call that is for all channels, where the port has it. */
static void call_once(trying *y, rgp_status (*call)(void *self))
{
    const uint64_t begun = y->now_us;
    if (call && !y->lost) {
        look_at_status(y, call(y->port->self), RGP_PORT_NO_CHANNEL);
        look_at_time(y, begun, RGP_PORT_NO_CHANNEL);
    }
}

static void read_all(trying *y)
{
    call_once(y, y->port->gather);
    for (uint16_t i = 0; i < y->sensors && !y->lost; i++) {
        rgp_sample sample = {.quality = RGP_MISSING};
        const uint64_t begun = y->now_us;
        const rgp_status status = y->port->read(y->port->self, i, &sample);
        const uint64_t took = look_at_time(y, begun, i);
        y->result->slowest_read_us = took > y->result->slowest_read_us ? took : y->result->slowest_read_us;
        look_at_status(y, status, i);
        if (status == RGP_OK) {
            look_at_sample(y, i, &sample);
        }
    }
    call_once(y, y->port->health);
}

/* ---- edges ----------------------------------------------------------------------------------------- */

static void look_at_edge(const trying *y, uint16_t sensor, const rgp_port_edge *is, bool lost)
{
    rgp_port_trace *trace = &y->t->trace[sensor];
    if (is->time_us > y->now_us || (trace->edged && is->time_us < trace->edge_us)) {
        find_of_sensor(y, RGP_PORT_EDGES_ORDER, sensor);
    }
    if (trace->edged && !lost && is->rising == trace->rising) {
        find_of_sensor(y, RGP_PORT_EDGES_TURN, sensor);
    }
    trace->edge_us = is->time_us;
    trace->rising = is->rising != 0;
    trace->edged = 1;
}

/* A sensor of which the port can tell no edges is no fault: they are found in its samples. */
static void read_edges(trying *y, uint16_t sensor)
{
    rgp_port_edge edge[RGP_EDGES_KEPT];
    uint16_t count = 0;
    uint32_t lost = 0;
    const rgp_status status = y->port->edges(y->port->self, sensor, y->now_us, edge, RGP_EDGES_KEPT, &count, &lost);
    look_at_status(y, status, sensor);
    if (status != RGP_OK) {
        return;
    }
    if (count > RGP_EDGES_KEPT) {
        find_of_sensor(y, RGP_PORT_EDGES_ROOM, sensor);
        return;
    }
    for (uint16_t i = 0; i < count; i++) {
        look_at_edge(y, sensor, &edge[i], i == 0 && lost > 0);
    }
    y->result->edges += count;
    y->result->lost += lost;
}

static void read_all_edges(trying *y)
{
    for (uint16_t i = 0; i < y->sensors && y->port->edges && !y->lost; i++) {
        if (is_switch(y, i)) {
            read_edges(y, i);
        }
    }
}

/* ---- driving --------------------------------------------------------------------------------------- */

/* At rest in every second tick; else so far towards the farther end. Names go one on. */
static float value_for(const trying *y, uint16_t actuator, uint32_t tick)
{
    const rgp_image_actuator *a = (const rgp_image_actuator *)rgp_image_at(y->image, RGP_SECTION_ACTUATORS) + actuator;
    const float up = a->high - a->rest, down = a->low - a->rest, way = up >= -down ? up : down;
    const bool whole = a->kind != RGP_ACTUATOR_NUMBER;
    const float to = a->rest + (whole ? (y->t->share > 0.0f ? way : 0.0f) : y->t->share * way);
    return tick % 2 == 0 ? a->rest : to;
}

static void write_all(trying *y, uint32_t tick)
{
    for (uint16_t i = 0; i < y->actuators && !y->lost; i++) {
        const uint64_t begun = y->now_us;
        const rgp_status status = y->port->write(y->port->self, i, value_for(y, i, tick));
        const uint64_t took = look_at_time(y, begun, i);
        y->result->slowest_write_us = took > y->result->slowest_write_us ? took : y->result->slowest_write_us;
        look_at_status(y, status, i);
        if (status != RGP_OK && status != RGP_E_PORT) {
            find_of_port(y, RGP_PORT_REFUSED, i);
        }
    }
    call_once(y, y->port->commit);
}

/* All to rest, whatever it says. */
static bool rest_all(const trying *y)
{
    bool rests = true;
    for (uint16_t i = 0; i < y->actuators; i++) {
        rests &= y->port->write(y->port->self, i, value_for(y, i, 0)) == RGP_OK;
    }
    return rests && (!y->port->commit || y->port->commit(y->port->self) == RGP_OK);
}

/* ---- the whole ------------------------------------------------------------------------------------- */

static void sleep_to(trying *y, uint64_t time_us)
{
    const rgp_status status = y->port->sleep_until(y->port->self, time_us);
    look_at_status(y, status, RGP_PORT_NO_CHANNEL);
    look_at_clock(y);
    if (status == RGP_OK && y->now_us < time_us) {
        find_of_port(y, RGP_PORT_WOKE_EARLY, RGP_PORT_NO_CHANNEL);
    }
    const uint64_t late = y->now_us > time_us ? y->now_us - time_us : 0;
    y->result->latest_us = late > y->result->latest_us ? late : y->result->latest_us;
}

static void try_all(trying *y)
{
    look_at_clock(y);
    const uint64_t begun = y->now_us;
    for (uint32_t tick = 0; tick < y->t->ticks && !y->lost; tick++) {
        sleep_to(y, begun + tick * y->tick_us);
        read_all(y);
        look_at_clock(y);
        read_all_edges(y);
        write_all(y, tick);
    }
    if (y->port->rest_now && !y->lost) {
        y->port->rest_now(y->port->self);
        if (!rest_all(y)) {
            find_of_port(y, RGP_PORT_NO_REST, RGP_PORT_NO_CHANNEL);
        }
    }
    rest_all(y);
}

rgp_status rgp_port_try(const rgp_port_trial *trial, rgp_port_result *result)
{
    const rgp_port *port = trial->port;
    if (!port || !trial->image || !trial->trace || !(trial->share >= 0.0f && trial->share <= 1.0f)) {
        return RGP_E_ARGUMENT;
    }
    trying y = {.t = trial, .port = port, .image = trial->image, .result = result, .tick_us = 0};
    *result = (rgp_port_result){0};
    y.tick_us = y.image->tick_us;
    y.sensors = (uint16_t)rgp_image_count(y.image, RGP_SECTION_SENSORS);
    y.actuators = (uint16_t)rgp_image_count(y.image, RGP_SECTION_ACTUATORS);
    if (port->version != RGP_PORT_VERSION || !port->now || !port->sleep_until || !port->read || !port->write) {
        find_of_port(&y, RGP_PORT_CONTRACT, RGP_PORT_NO_CHANNEL);
    } else {
        try_all(&y);
    }
    return result->faults > 0 ? RGP_E_PORT : RGP_OK;
}
