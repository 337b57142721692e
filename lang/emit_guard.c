/* Guards, in the order of their actuators; one over all becomes one over each. */
#include "emit.h"

static void emit_guard(emitter *e, uint32_t index, uint32_t actuator, uint16_t condition, uint16_t limit)
{
    const guard *g = &e->t->guard[index];
    rp_image_actuator *a = &e->actuator[actuator];
    a->guards++;
    *ARENA_PUSH(e->t->arena, e->guard_source, e->guard_sources, e->guard_sources_room) = index;
    *ARENA_PUSH(e->t->arena, e->guard, e->guards, e->guards_room) =
        (rp_image_guard){(uint16_t)actuator, (uint16_t)g->side, condition, limit};
}

void emit_guards(emitter *e)
{
    const tree *t = e->t;
    uint16_t *condition = arena_get(t->arena, (t->guards + 1u) * sizeof *condition);
    uint16_t *limit = arena_get(t->arena, (t->guards + 1u) * sizeof *limit);
    for (unsigned i = 0; i < t->guards; i++) {
        const guard *g = &t->guard[i];
        condition[i] = emit_node(e, g->condition, RP_REF_NONE).ref;
        limit[i] = g->limit ? emit_value(e, g->limit, unit_percent) : 0;
    }
    for (uint32_t actuator = 0; actuator < t->count[SYMBOL_ACTUATOR]; actuator++) {
        e->actuator[actuator].first_guard = (uint16_t)e->guards;
        for (unsigned i = 0; i < t->guards; i++) {
            if (!t->guard[i].actuator || t->guard[i].actuator->index == actuator) {
                emit_guard(e, i, actuator, condition[i], limit[i]);
            }
        }
    }
}
