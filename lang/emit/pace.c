/* The pace of a value: it can be new whenever one of a set of sensors is, or in every tick. */
#include "emit.h"

#include <string.h>

/* Of nothing that is read: parameters, constants, actuators, modes. */
#define NOTHING NULL

static const pace_set every_tick = {.every_tick = true};

static pace_set *new_set(emitter *e, uint32_t room)
{
    pace_set *set = arena_get(e->t->arena, sizeof *set);
    set->sensor = arena_get(e->t->arena, (room + 1u) * sizeof *set->sensor);
    return set;
}

const pace_set *pace_of_sensor(emitter *e, uint32_t sensor)
{
    pace_set *set = new_set(e, 1);
    set->sensor[set->sensors++] = (uint16_t)sensor;
    return set;
}

/* Both are in rising order. */
static const pace_set *either(emitter *e, const pace_set *a, const pace_set *b)
{
    if (!a || !b || a == b) {
        return a ? a : b;
    }
    if (a->every_tick || b->every_tick) {
        return &every_tick;
    }
    pace_set *set = new_set(e, a->sensors + b->sensors);
    for (uint32_t i = 0, k = 0; i < a->sensors || k < b->sensors;) {
        const bool from_a = k == b->sensors || (i < a->sensors && a->sensor[i] <= b->sensor[k]);
        const uint16_t next = from_a ? a->sensor[i] : b->sensor[k];
        i += i < a->sensors && a->sensor[i] == next;
        k += k < b->sensors && b->sensor[k] == next;
        set->sensor[set->sensors++] = next;
    }
    return set;
}

const pace_set *pace_of_result(emitter *e, uint8_t op, const value_ref *in)
{
    const pace_set *pace = NOTHING;
    switch (rgp_ops[op].pace) {
    case RGP_PACE_FIRST:
        return in[0].pace;
    case RGP_PACE_ALL:
        for (uint32_t i = 0; i < rgp_ops[op].inputs; i++) {
            pace = either(e, pace, in[i].pace);
        }
        return pace;
    default:
        return &every_tick;
    }
}

static bool same_set(const rgp_image_pace *known, const uint16_t *sensor, const pace_set *set)
{
    return known->sensors == set->sensors &&
           memcmp(sensor + known->first, set->sensor, set->sensors * sizeof *sensor) == 0;
}

/* A loop goes by what it measures, its second input. */
uint16_t pace_of_steps(emitter *e, uint8_t op, const value_ref *in)
{
    const pace_set *set = rgp_ops[op].steps == RGP_STEPS_NEW ? in[rgp_ops[op].loop ? 1 : 0].pace : &every_tick;
    if (!set || set->every_tick) {
        return 0;
    }
    unsigned i = 0;
    while (i < e->paces && !same_set(&e->pace[i], e->pace_sensor, set)) {
        i++;
    }
    if (i == e->paces) {
        *ARENA_PUSH(e->t->arena, e->pace, e->paces, e->paces_room) =
            (rgp_image_pace){(uint16_t)e->pace_sensors, (uint16_t)set->sensors};
        for (uint32_t k = 0; k < set->sensors; k++) {
            *ARENA_PUSH(e->t->arena, e->pace_sensor, e->pace_sensors, e->pace_sensors_room) = set->sensor[k];
        }
    }
    return (uint16_t)(i + 1);
}
