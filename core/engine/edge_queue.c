/* Edges that the port tells: taken in, put on the engine's clock, and told in the tick they belong to. */
#include "edge_queue.h"

#include "phase.h"

/* Times go from the port's clock to the engine's, which never goes back: an edge from before the last tick counts as of
 * that tick, and none is before the one ahead of it. Of more than there is room for the oldest stay, and the rest is
 * counted. */
rgp_status rgp_engine_edges(rgp_engine *e, uint16_t sensor, const rgp_port_edge *edge, uint16_t count, uint32_t lost)
{
    if (sensor >= COUNT(e, SENSORS) || !image_SENSORS(e)[sensor].timed) {
        return RGP_E_INDEX;
    }
    const rgp__engine_head *const head = part_head(e);
    rgp__edge_queue *q = &part_edges(e)[image_SENSORS(e)[sensor].timed - 1];
    q->lost += lost;
    for (uint16_t i = 0; i < count; i++) {
        if (q->count == RGP_EDGES_KEPT) {
            q->lost++;
            continue;
        }
        const uint64_t since = edge[i].time_us > head->port_us ? edge[i].time_us - head->port_us : 0;
        uint64_t at = head->ticks > 0 ? head->now_us + since : edge[i].time_us;
        if (q->count > 0 && at < q->edge[q->count - 1].time_us) {
            at = q->edge[q->count - 1].time_us;
        }
        q->edge[q->count++] = (rgp_port_edge){at, edge[i].rising != 0};
    }
    q->told = 1;
    return RGP_OK;
}

static void raise_edges(const rgp_engine *e, uint32_t sensor, const rgp__edge_queue *q)
{
    if (q->lost > 0) {
        raise_event(e, RGP_EVENT_OVERFLOW, 0, sensor, (float)q->lost);
    }
    for (uint32_t i = 0; i < q->count; i++) {
        raise_event_at(e, q->edge[i].time_us, RGP_EVENT_EDGE, (uint8_t)q->edge[i].rising, sensor,
                       (float)(part_head(e)->now_us - q->edge[i].time_us));
    }
}

/* None is later than the tick; where the port tells none they are found in the readings. They are told. */
static void take_edges(const rgp_engine *e, uint32_t sensor, rgp__edge_queue *q)
{
    const rgp__engine_head *const head = part_head(e);
    if (!q->told) {
        const rgp_reading in = rgp_engine_value(e, rgp_image_sensor_slot(e->image, sensor));
        q->count = rgp_edges_find(&q->memory, in, false, head->now_us, head->dt, q->edge).count;
    }
    for (uint32_t n = 0; n < q->count; n++) {
        q->edge[n].time_us = q->edge[n].time_us < head->now_us ? q->edge[n].time_us : head->now_us;
    }
    raise_edges(e, sensor, q);
}

/* Before the states and the program, so that a measuring block finds the edges of this tick, and no later one. */
void rgp__phase_edge_queue(rgp_engine *e)
{
    for (uint32_t i = 0; i < COUNT(e, SENSORS); i++) {
        if (image_SENSORS(e)[i].timed) {
            take_edges(e, i, &part_edges(e)[image_SENSORS(e)[i].timed - 1]);
        }
    }
}

/* At the end of the tick. `told` stays: a port that has told edges once is believed from then on, also when it has
 * none. */
void rgp__engine_forget_edges(rgp_engine *e)
{
    rgp__edge_queue *const q = part_edges(e);
    const uint32_t timed = rgp__image_timed(e->image);
    for (uint32_t k = 0; k < timed; k++) {
        q[k].count = 0;
        q[k].lost = 0;
    }
}
