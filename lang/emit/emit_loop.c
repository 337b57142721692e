/* Control loops -> operations. All terms of a loop come out of one operation. */
#include "emit.h"

#include <string.h>

/* A bare parameter is a gain in the unit that is wanted. */
static unit unit_for(const emitter *e, const loop *l, const loop_setting *is, const node *n)
{
    bool interval;
    const unit wanted = lang_loop_unit(e->t, l, is->unit, &interval);
    return n->kind == NODE_NAME && unit_is_bare(n->type.unit) ? n->type.unit : wanted;
}

/* One minus a bare number or parameter. */
static void emit_set_from_one(operation *o, uint32_t offset, const node *n)
{
    if (n->kind == NODE_NUMBER) {
        emit_set_float(o, offset, 1.0 - n->number);
        return;
    }
    emit_set_fixed(o, offset, n, n->type.unit);
    live_field *f = &o->field[o->fields - 1];
    f->scale = -1.0;
    f->shift = 1.0;
    emit_set_float(o, offset, 1.0 - n->symbol->initial);
}

static void emit_value_of(emitter *e, operation *o, const loop *l, const loop_line_of *of, uint32_t index)
{
    const loop_setting *is = &of->line->setting[index];
    const loop_value *v = &of->setting[index];
    bool interval;
    if (is->flag) {
        emit_set_u32(o, is->offset, v->given);
    } else if (v->param) {
        const node name = {.kind = NODE_NAME, .symbol = v->param, .type = v->param->type};
        emit_set_fixed(o, is->offset, &name, lang_loop_unit(e->t, l, is->unit, &interval));
    } else if (v->value && is->from_one) {
        emit_set_from_one(o, is->offset, v->value);
    } else if (v->value) {
        emit_set_fixed(o, is->offset, v->value, unit_for(e, l, is, v->value));
    } else {
        emit_set_float(o, is->offset, is->from_one ? 1.0 - is->initial : is->initial);
    }
}

static void emit_param_of(operation *o, uint32_t offset, const symbol *param)
{
    const node name = {.kind = NODE_NAME, .symbol = param, .type = param->type};
    emit_set_fixed(o, offset, &name, param->type.unit);
}

/* Settings that are not written. A single bad reading must not cut a loop out. */
static void emit_defaults(const emitter *e, operation *o, const loop *l)
{
    const double tick = e->t->tick_us / 1e6, hold = 3.0 * tick > 0.2 ? 3.0 * tick : 0.2;
    emit_set_float(o, offsetof(rgp_loop_config, hold), hold);
    const loop_line *method = l->method->line;
    emit_set_float(o, method->low, l->least);
    emit_set_float(o, method->high, l->greatest);
    emit_set_u32(o, method->reverse, l->reverse);
}

static value_ref emit_predicted(emitter *e, const loop *l, value_ref measured)
{
    for (uint32_t i = 0; i < l->lines; i++) {
        const loop_line_of *of = &l->line[i];
        if (of->line->kind != LOOP_PREDICT) {
            continue;
        }
        const value_ref in[2] = {measured, emit_symbol(e, l->actuator)};
        operation *o = emit_operation(e, of->line->op, of->at);
        for (uint32_t k = 0; k < LOOP_LINE_SETTINGS_MAX && of->line->setting[k].name; k++) {
            emit_value_of(e, o, l, of, k);
        }
        return emit_finish(e, o, in, emit_new_slot(e), of->line->form);
    }
    return measured;
}

static value_ref emit_input(emitter *e, const node *n, text_range at)
{
    if (!n) {
        return emit_constant(e, 0.0, at);
    }
    return n->kind == NODE_NUMBER ? emit_constant(e, n->number, at) : emit_node(e, n, RGP_REF_NONE);
}

static void emit_whole(emitter *e, const loop *l)
{
    const value_ref measured = emit_node(e, l->measured, RGP_REF_NONE);
    lang_warn_loop(e->t, l, measured.value_range.known, measured.value_range.low, measured.value_range.high);
    const value_ref in[3] = {emit_input(e, l->setpoint, l->at), emit_predicted(e, l, measured),
                             emit_input(e, l->feed, l->at)};
    operation *o = emit_operation(e, l->method->line->op, l->method->at);
    emit_defaults(e, o, l);
    emit_param_of(o, offsetof(rgp_loop_config, trim), l->trim);
    emit_param_of(o, offsetof(rgp_loop_config, bias), l->push);
    for (uint32_t i = 0; i < l->lines; i++) {
        const loop_line_of *of = &l->line[i];
        const bool in_config = of->line->kind == LOOP_METHOD || of->line->kind == LOOP_COMMON;
        for (uint32_t k = 0; in_config && k < LOOP_LINE_SETTINGS_MAX && of->line->setting[k].name; k++) {
            emit_value_of(e, o, l, of, k);
        }
    }
    const uint32_t terms = rgp_ops[o->op].outputs;
    const value_ref first = emit_finish(e, o, in, e->of_symbol[l->term[0]->place].ref, l->method->line->form);
    for (uint32_t i = 0; i < terms; i++) { /* their slots follow one another, since their names were made in a row */
        const bool bounded = i == RGP_TERM_OUTPUT;
        value_ref *term = &e->of_symbol[l->term[i]->place];
        o->out[i] = term->ref;
        *term = (value_ref){.ref = term->ref,
                            .level = first.level,
                            .value_range = {bounded, l->least, l->greatest},
                            .pace = first.pace};
    }
    e->of_symbol[l->term[RGP_TERM_PHASE]->place].value_range = (value_range){true, 0.0, RGP_LOOP_PHASES - 1.0};
}

value_ref emit_term(emitter *e, const symbol *s)
{
    if (e->of_symbol[s->place].level == UINT32_MAX) {
        emit_whole(e, s->value->loop);
    }
    return e->of_symbol[s->place];
}

static void describe(emitter *e, const loop *l, rgp_image_loop *to)
{
    to->terms = rgp_ops[l->method->line->op].outputs;
    to->first = emit_term(e, l->term[RGP_TERM_PHASE]).ref;
    to->measured = emit_input(e, l->measured, l->at).ref;
    to->setpoint = emit_input(e, l->setpoint, l->at).ref;
    to->trim = (uint16_t)l->trim->index;
    to->bias = (uint16_t)l->push->index;
    for (uint32_t i = 0; i < sizeof to->gain / sizeof *to->gain; i++) {
        const loop_value *v = &l->method->setting[i];
        const bool gains = l->method->line->setting[i].param != NULL;
        const symbol *param = v->param ? v->param : gains && v->value ? v->value->symbol : NULL;
        to->gain[i] = param ? (uint16_t)param->index : (uint16_t)RGP_REF_NONE;
        to->brought |= (uint16_t)((v->param != NULL) << i);
    }
    for (uint32_t k = 0; k < l->lines; k++) {
        const loop_line_of *of = &l->line[k];
        for (uint32_t n = 0; n < LOOP_LINE_SETTINGS_MAX && of->line->setting[n].name; n++) {
            const bool again =
                of->line->setting[n].flag && of->line->setting[n].offset == offsetof(rgp_loop_config, again);
            to->again |= again && of->setting[n].given;
        }
    }
}

void emit_loops(emitter *e)
{
    const tree *t = e->t;
    e->loop = arena_get(t->arena, (t->loops + 1u) * sizeof *e->loop);
    for (unsigned i = 0; i < t->follows; i++) {
        const loop *l = t->follow[i].loop;
        if (l) {
            e->loop[l->index].claim = e->drive[i].claim;
            e->loop[l->index].actuator = e->drive[i].actuator;
            describe(e, l, &e->loop[l->index]);
            e->loop[l->index].condition = e->drive[i].condition =
                l->only ? emit_node(e, l->only, RGP_REF_NONE).ref : (uint16_t)RGP_REF_NONE;
        }
    }
}
