/* A port in front of another one: each call is passed on, samples are noted, a dry run writes rest values. */
#include "front.h"

#include <stddef.h>

static uint64_t front_now(void *self)
{
    rgp_front *front = self;
    front->now_us = front->inner->now(front->inner->self);
    return front->now_us;
}

static rgp_status front_sleep_until(void *self, uint64_t time_us)
{
    const rgp_port *p = ((const rgp_front *)self)->inner;
    return p->sleep_until(p->self, time_us);
}

static rgp_status front_read(void *self, uint16_t sensor, rgp_sample *sample)
{
    const rgp_front *front = self;
    const rgp_status status = front->inner->read(front->inner->self, sensor, sample);
    front->sample[sensor] = *sample;
    return status;
}

static rgp_status front_edges(void *self, uint16_t sensor, uint64_t until_us, rgp_port_edge *edge, uint16_t room,
                              uint16_t *count, uint32_t *lost)
{
    const rgp_front *front = self;
    const rgp_port *p = front->inner;
    const rgp_status status = p->edges(p->self, sensor, until_us, edge, room, count, lost);
    front->told[sensor] |= status == RGP_OK;
    return status;
}

static rgp_status front_write(void *self, uint16_t actuator, float value)
{
    const rgp_front *front = self;
    const rgp_image_actuator *a =
        (const rgp_image_actuator *)rgp_image_at(front->image, RGP_SECTION_ACTUATORS) + actuator;
    const float rest = a->inverted ? a->low + a->high - a->rest : a->rest;
    return front->inner->write(front->inner->self, actuator, front->dry ? rest : value);
}

static void front_rest_now(void *self)
{
    const rgp_port *p = ((const rgp_front *)self)->inner;
    p->rest_now(p->self);
}

static rgp_status front_health(void *self)
{
    const rgp_port *p = ((const rgp_front *)self)->inner;
    return p->health(p->self);
}

static rgp_status front_gather(void *self)
{
    const rgp_port *p = ((const rgp_front *)self)->inner;
    return p->gather(p->self);
}

static rgp_status front_commit(void *self)
{
    const rgp_port *p = ((const rgp_front *)self)->inner;
    return p->commit(p->self);
}

static void front_alive(void *self)
{
    const rgp_port *p = ((const rgp_front *)self)->inner;
    p->alive(p->self);
}

static rgp_status front_open(void *self, const rgp_port_channel *channel)
{
    const rgp_port *p = ((const rgp_front *)self)->inner;
    return p->open(p->self, channel);
}

void rgp_front_begin(rgp_front *front, const rgp_port *inner, const rgp_image_header *image, rgp_sample *sample,
                     bool *told, bool dry)
{
    *front = (rgp_front){.port = {.version = inner->version,
                                  .self = front,
                                  .now = front_now,
                                  .sleep_until = front_sleep_until,
                                  .read = front_read,
                                  .edges = inner->edges ? front_edges : NULL,
                                  .write = front_write,
                                  .health = inner->health ? front_health : NULL,
                                  .rest_now = inner->rest_now ? front_rest_now : NULL,
                                  .gather = inner->gather ? front_gather : NULL,
                                  .commit = inner->commit ? front_commit : NULL,
                                  .alive = inner->alive ? front_alive : NULL,
                                  .open = inner->open ? front_open : NULL,
                                  .repeat_us = inner->repeat_us},
                         .inner = inner,
                         .image = image,
                         .sample = sample,
                         .told = told,
                         .dry = dry};
}
