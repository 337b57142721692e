#include "dry.h"

#include <stddef.h>

static uint64_t dry_now(void *self)
{
    const rp_port *p = ((const rp_dry *)self)->inner;
    return p->now(p->self);
}

static rp_status dry_sleep_until(void *self, uint64_t time_us)
{
    const rp_port *p = ((const rp_dry *)self)->inner;
    return p->sleep_until(p->self, time_us);
}

static rp_status dry_read(void *self, uint16_t sensor, rp_sample *sample)
{
    const rp_port *p = ((const rp_dry *)self)->inner;
    return p->read(p->self, sensor, sample);
}

static rp_status dry_edges(void *self, uint16_t sensor, uint64_t until_us, rp_port_edge *edge, uint16_t room,
                           uint16_t *count, uint32_t *lost)
{
    const rp_port *p = ((const rp_dry *)self)->inner;
    return p->edges(p->self, sensor, until_us, edge, room, count, lost);
}

static rp_status dry_write(void *self, uint16_t actuator, float value)
{
    const rp_dry *dry = self;
    const rp_image_actuator *a = (const rp_image_actuator *)rp_image_at(dry->image, RP_SECTION_ACTUATORS) + actuator;
    (void)value;
    return dry->inner->write(dry->inner->self, actuator, a->inverted ? a->low + a->high - a->rest : a->rest);
}

static void dry_rest_now(void *self)
{
    const rp_port *p = ((const rp_dry *)self)->inner;
    p->rest_now(p->self);
}

static rp_status dry_health(void *self)
{
    const rp_port *p = ((const rp_dry *)self)->inner;
    return p->health(p->self);
}

void rp_dry_begin(rp_dry *dry, const rp_port *inner, const rp_image_header *image)
{
    *dry = (rp_dry){.port = {.version = inner->version,
                             .self = dry,
                             .now = dry_now,
                             .sleep_until = dry_sleep_until,
                             .read = dry_read,
                             .edges = inner->edges ? dry_edges : NULL,
                             .write = dry_write,
                             .health = inner->health ? dry_health : NULL,
                             .rest_now = inner->rest_now ? dry_rest_now : NULL},
                    .inner = inner,
                    .image = image};
}
