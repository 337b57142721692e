#include "gather.h"

#include "tell.h"

rp_status rp_engine_edges(rp_engine *e, uint16_t sensor, const rp_port_edge *edge, uint16_t count, uint32_t lost)
{
    if (sensor >= e->sensors || !e->sensor[sensor].timed) {
        return RP_E_INDEX;
    }
    rp_edge_queue *q = &e->edges[rp_engine_timed(e, sensor)];
    q->lost += lost;
    for (uint16_t i = 0; i < count; i++) {
        if (q->count == RP_EDGES_KEPT) {
            q->lost++;
            continue;
        }
        const uint64_t since = edge[i].time_us > e->port_us ? edge[i].time_us - e->port_us : 0;
        uint64_t at = e->ticks > 0 ? e->now_us + since : edge[i].time_us;
        if (q->count > 0 && at < q->edge[q->count - 1].time_us) {
            at = q->edge[q->count - 1].time_us;
        }
        q->edge[q->count++] = (rp_port_edge){at, edge[i].rising != 0};
    }
    q->told = 1;
    return RP_OK;
}

static void tell_edges(rp_engine *e, uint32_t sensor, const rp_edge_queue *q)
{
    if (q->lost > 0) {
        tell(e, RP_EVENT_OVERFLOW, 0, sensor, (float)q->lost);
    }
    for (uint32_t i = 0; i < q->count; i++) {
        tell(e, RP_EVENT_EDGE, (uint8_t)q->edge[i].rising, sensor, (float)(e->now_us - q->edge[i].time_us));
    }
}

void rp_engine_gather(rp_engine *e, float dt)
{
    uint32_t k = 0;
    for (uint32_t i = 0; k < e->timed; i++) {
        if (!e->sensor[i].timed) {
            continue;
        }
        rp_edge_queue *q = &e->edges[k++];
        if (!q->told) {
            const rp_reading in = rp_engine_value(e, (uint32_t)e->sensor_slot + i);
            q->count = rp_edges_find(&q->memory, in, false, e->now_us, dt, q->edge).count;
        }
        for (uint32_t n = 0; n < q->count; n++) {
            q->edge[n].time_us = q->edge[n].time_us < e->now_us ? q->edge[n].time_us : e->now_us;
        }
        tell_edges(e, i, q);
    }
}

void rp_engine_ungather(rp_engine *e)
{
    for (uint32_t k = 0; k < e->timed; k++) {
        e->edges[k].count = 0;
        e->edges[k].lost = 0;
    }
}
