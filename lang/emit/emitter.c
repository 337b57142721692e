/* Tree -> image. Every operation is laid down with its level (one more than that of what it needs);
 * operations of one level and kind then stand together as a run. */
#include "emit.h"

/* A term of a loop brings the whole loop. What a name needs has been emitted before it. */
static void emit_in_order(emitter *e, const symbol *s)
{
    if (s->kind == SYMBOL_SIGNAL && s->value->kind == NODE_LOOP) {
        emit_term(e, s);
    } else {
        emit_symbol(e, s);
    }
}

void *lang_emit(tree *t, uint32_t *size)
{
    emitter e = {.t = t, .owner = RGP_REF_NONE};
    e.base[SYMBOL_SENSOR] = t->count[SYMBOL_PARAM];
    e.base[SYMBOL_ACTUATOR] = e.base[SYMBOL_SENSOR] + t->count[SYMBOL_SENSOR];
    e.base[SYMBOL_STATE] = e.base[SYMBOL_ACTUATOR] + t->count[SYMBOL_ACTUATOR];
    e.slots = e.base[SYMBOL_STATE] + t->count[SYMBOL_STATE];
    e.actuator = arena_get(t->arena, (t->count[SYMBOL_ACTUATOR] + 1u) * sizeof *e.actuator);
    e.of_symbol = arena_get(t->arena, (t->symbols + 1u) * sizeof *e.of_symbol);
    for (unsigned i = 0; i < t->symbols; i++) {
        e.of_symbol[i].level = UINT32_MAX;
    }
    if (t->traced) {
        t->origin = arena_get(t->arena, RGP_SLOTS_MAX * sizeof *t->origin);
    }
    e.wide = arena_get(t->arena, t->count[SYMBOL_SENSOR] + 1u);
    for (unsigned i = 0; i < t->symbols; i++) {
        const symbol *s = t->symbol[i];
        if (s->kind == SYMBOL_SENSOR) {
            e.wide[s->index] = s->greatest > SINGLE_EXACT || s->least < -SINGLE_EXACT;
        }
    }
    const bool whole = t->report->errors == 0;
    for (unsigned i = 0; i < t->symbols; i++) {
        emit_reserve(&e, t->symbol[i]);
    }
    for (unsigned i = 0; i < t->ordered; i++) {
        if (t->order[i]->type.kind != TYPE_UNKNOWN) {
            emit_in_order(&e, t->order[i]);
        }
    }
    if (whole) {
        emit_rules(&e);
        emit_loops(&e);
        emit_guards(&e);
        emit_stalls(&e);
        emit_stops_and_keeps(&e);
        emit_needs(&e);
        emit_names(&e);
    }
    return t->report->errors ? NULL : emit_image(&e, size);
}
