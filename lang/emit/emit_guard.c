/* Guards, in the order of their actuators; one over all becomes one over each. */
#include "emit.h"

#include <string.h>

static void emit_guard(emitter *e, uint32_t index, uint32_t actuator, uint16_t condition, uint16_t limit)
{
    const guard *g = &e->t->guard[index];
    rgp_image_actuator *a = &e->actuator[actuator];
    a->guards++;
    *ARENA_PUSH(e->t->arena, e->guard_source, e->guard_sources, e->guard_sources_room) = index;
    *ARENA_PUSH(e->t->arena, e->guard, e->guards, e->guards_room) =
        (rgp_image_guard){(uint16_t)actuator, (uint16_t)g->side, condition, limit};
}

void emit_guards(emitter *e)
{
    const tree *t = e->t;
    uint16_t *condition = arena_get(t->arena, (t->guards + 1u) * sizeof *condition);
    uint16_t *limit = arena_get(t->arena, (t->guards + 1u) * sizeof *limit);
    for (unsigned i = 0; i < t->guards; i++) {
        const guard *g = &t->guard[i];
        condition[i] = g->condition ? emit_node(e, g->condition, RGP_REF_NONE).ref : 0;
        limit[i] = g->limit ? emit_value(e, g->limit, g->actuator->type.unit) : 0;
    }
    for (uint32_t actuator = 0; actuator < t->count[SYMBOL_ACTUATOR]; actuator++) {
        e->actuator[actuator].first_guard = (uint16_t)e->guards;
        for (unsigned i = 0; i < t->guards; i++) {
            const guard *g = &t->guard[i];
            if (!g->actuator || g->actuator->index == actuator) {
                emit_guard(e, i, actuator, g->other ? (uint16_t)g->other->index : condition[i], limit[i]);
            } else if (g->other && g->other->index == actuator) {
                emit_guard(e, i, actuator, (uint16_t)g->actuator->index, limit[i]);
            }
        }
    }
}

/* In the order of their actuators. */
void emit_stalls(emitter *e)
{
    const tree *t = e->t;
    e->stall = arena_get(t->arena, (t->stalls + 1u) * sizeof *e->stall);
    for (uint32_t actuator = 0; actuator < t->count[SYMBOL_ACTUATOR]; actuator++) {
        e->actuator[actuator].first_stall = (uint16_t)e->stalls;
        for (unsigned i = 0; i < t->stalls; i++) {
            const stall *s = &t->stall[i];
            if (s->actuator->index != actuator) {
                continue;
            }
            *ARENA_PUSH(t->arena, e->stall_source, e->stall_sources, e->stall_sources_room) = i;
            e->stall[e->stalls++] = (rgp_image_stall){(uint16_t)actuator, emit_node(e, s->value, RGP_REF_NONE).ref,
                                                      (float)s->amount_by, (float)s->time_s};
            e->actuator[actuator].stalls++;
        }
    }
}

void emit_stops_and_keeps(emitter *e)
{
    const tree *t = e->t;
    e->stop = arena_get(t->arena, (t->stops + 1u) * sizeof *e->stop);
    e->keep = arena_get(t->arena, (t->keeps + 1u) * sizeof *e->keep);
    for (unsigned i = 0; i < t->stops; i++) {
        const stop *s = &t->stop[i];
        const uint16_t condition = emit_node(e, s->condition, RGP_REF_NONE).ref;
        e->stop[i] = (rgp_image_stop){condition,
                                      s->release ? emit_node(e, s->release, RGP_REF_NONE).ref : (uint16_t)RGP_REF_NONE};
    }
    for (unsigned i = 0; i < t->keeps; i++) {
        const keep *k = &t->keep[i];
        e->keep[i] = (rgp_image_retained){.slot = emit_symbol(e, k->signal).ref,
                                          .key = rgp_crc32(0, k->name, (uint32_t)strlen(k->name))};
    }
}
