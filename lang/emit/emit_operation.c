/* Operations: their settings, where their results go, and what no parameter may make of them. */
#include "emit.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

uint16_t emit_new_slot(emitter *e)
{
    if (e->slots + 1 >= RGP_SLOTS_MAX) {
        report_error(e->t->report, (text_range){0, 0}, NULL, "too many values (limit %u)", RGP_SLOTS_MAX);
        return 0;
    }
    return (uint16_t)e->slots++;
}

value_ref emit_constant(emitter *e, double number, text_range at)
{
    const float value = (float)number;
    if (!rgp_finite(value)) {
        report_error(e->t->report, at, "the greatest is about 3e38", "this number is too large");
    }
    unsigned i = 0;
    while (i < e->constants && memcmp(&e->constant[i], &value, sizeof value) != 0) {
        i++;
    }
    if (i == e->constants) {
        *ARENA_PUSH(e->t->arena, e->constant, e->constants, e->constants_room) = value;
    }
    const value_range only = {true, (double)value, (double)value};
    return (value_ref){.ref = (uint16_t)(RGP_REF_CONSTANT | i), .value_range = only};
}

operation *emit_operation(emitter *e, uint8_t op, text_range at)
{
    operation *o = arena_get(e->t->arena, sizeof *o);
    o->op = op;
    o->at = at;
    o->order = e->operations;
    o->owner = e->owner;
    *ARENA_PUSH(e->t->arena, e->operation, e->operations, e->operations_room) = o;
    return o;
}

void emit_set_float(operation *o, uint32_t offset, double value)
{
    const float field = (float)value;
    memcpy(o->config + offset, &field, sizeof field);
}

void emit_set_u32(operation *o, uint32_t offset, uint32_t value)
{
    memcpy(o->config + offset, &value, sizeof value);
}

/* A fixed value in `wanted`; a parameter also makes the field live. */
void emit_set_fixed(operation *o, uint32_t offset, const node *n, unit wanted)
{
    if (n->kind == NODE_NUMBER) {
        emit_set_float(o, offset, unit_convert(n->number, n->type.unit, wanted));
        return;
    }
    live_field *f = &o->field[o->fields++];
    *f = (live_field){.param = n->symbol, .offset = offset};
    unit_conversion(n->type.unit, wanted, &f->scale, &f->shift);
    emit_set_float(o, offset, n->symbol->initial * f->scale + f->shift);
}

static void set_param(operation *o, const symbol *param, double value)
{
    for (uint32_t i = 0; i < o->fields; i++) {
        const live_field *f = &o->field[i];
        if (f->param == param) {
            emit_set_float(o, f->offset, value * f->scale + f->shift);
        }
    }
}

static bool works(operation *o, const symbol *param, double value)
{
    set_param(o, param, value);
    return !rgp_ops[o->op].fault(o->config);
}

/* The settings do not work with the parameter at `bad`. Where they do at its initial value: up to which value, by
 * halving; NULL: they do not. */
static const char *describe_what_works(emitter *e, const operation *failed, const symbol *param, double bad)
{
    operation probe = *failed;
    double good = param->initial;
    if (!works(&probe, param, good)) {
        return NULL;
    }
    for (uint32_t i = 0; i < HALVINGS; i++) {
        const double middle = good + (bad - good) / 2.0;
        const bool well = works(&probe, param, middle);
        good = well ? middle : good;
        bad = well ? bad : middle;
    }
    return arena_print(e->t->arena, "'%s' may be %s about %.4g%s%s", param->name,
                       bad > param->initial ? "at most" : "at least", good, *param->type.unit.text ? " " : "",
                       param->type.unit.text);
}

/* Of the first parameter that can mend it. */
static void report_impossible(emitter *e, const operation *failed, const symbol *const *param, uint32_t params,
                              uint32_t corner, const char *advice)
{
    const char *where = "", *mended = NULL;
    for (uint32_t k = 0; k < params; k++) {
        const double value = corner >> k & 1u ? param[k]->greatest : param[k]->least;
        where = arena_print(e->t->arena, "%s%s %s = %g %s", where, k ? " and" : " when", param[k]->name, value,
                            param[k]->type.unit.text);
        mended = mended ? mended : describe_what_works(e, failed, param[k], value);
    }
    report_error(e->t->report, failed->at,
                 !mended   ? advice
                 : !advice ? mended
                           : arena_print(e->t->arena, "%s; %s", advice, mended),
                 "these settings are impossible%s", where);
}

/* With every parameter at its least and its greatest, in all combinations, the settings must be sound:
 * all of the blocks' conditions are linear in the fields that can be live, so the corners decide. Returns what the
 * result can be with any of them. */
static value_range check_corners(emitter *e, operation *o, const value_ref *in, const char *advice)
{
    const symbol *param[CORNER_PARAMS_MAX] = {NULL};
    uint32_t params = 0;
    for (uint32_t i = 0; i < o->fields; i++) {
        uint32_t k = 0;
        while (k < params && param[k] != o->field[i].param) {
            k++;
        }
        if (k == CORNER_PARAMS_MAX) {
            report_error(e->t->report, o->at, NULL, "too many parameters in one place (limit %u)", CORNER_PARAMS_MAX);
            return (value_range){false, 0.0, 0.0};
        }
        if (k == params) {
            param[params++] = o->field[i].param;
        }
    }
    operation probe = *o;
    value_range all = {false, 0.0, 0.0};
    for (uint32_t corner = 0; corner < 1u << params; corner++) {
        for (uint32_t k = 0; k < params; k++) {
            set_param(&probe, param[k], corner >> k & 1u ? param[k]->greatest : param[k]->least);
        }
        if (rgp_ops[o->op].fault(probe.config)) {
            report_impossible(e, &probe, param, params, corner, advice);
            return (value_range){false, 0.0, 0.0};
        }
        const value_range here = value_range_of(o->op, probe.config, in);
        all = corner == 0 ? here : value_range_either(all, here);
    }
    return all;
}

uint32_t emit_place_for(emitter *e, const node *input, value_ref in, uint32_t target)
{
    if (target != RGP_REF_NONE) {
        return target;
    }
    return input->kind == NODE_NAME || input->kind == NODE_NUMBER || in.stands ? emit_new_slot(e)
                                                                               : emit_over(e, in.ref);
}

uint16_t emit_over(emitter *e, uint16_t slot)
{
    return e->t->traced ? emit_new_slot(e) : slot;
}

static bool is_wide(const emitter *e, uint16_t ref)
{
    return ref >= e->base[SYMBOL_SENSOR] && ref < e->base[SYMBOL_ACTUATOR] && e->wide[ref - e->base[SYMBOL_SENSOR]];
}

value_ref emit_finish(emitter *e, operation *o, const value_ref *in, uint32_t target, const char *advice)
{
    const rgp_op *op = &rgp_ops[o->op];
    for (uint32_t i = 0; i < op->inputs; i++) {
        o->in[i] = in[i].ref; // NOLINT(clang-analyzer-core.uninitialized.Assign): as many as the operation has
        o->level = in[i].level > o->level ? in[i].level : o->level;
    }
    o->level++;
    o->out[0] = (uint16_t)target;
    value_range result;
    if (op->fault) {
        result = check_corners(e, o, in, advice);
        o->config_bytes = op->config_bytes(o->config);
        o->state_bytes = op->state_bytes ? op->state_bytes(o->config) : 0;
    } else {
        result = value_range_of(o->op, o->config, in);
    }
    o->pace = pace_of_steps(e, o->op, in);
    o->way = rgp_op_takes_whole(o->op) && is_wide(e, in[0].ref) ? RGP_WAY_WHOLE : RGP_WAY_PLAIN;
    return (value_ref){.ref = o->out[0],
                       .level = o->level,
                       .value_range = result,
                       .pace = pace_of_result(e, o->op, in),
                       .stands = o->pace != 0};
}
