/* Tree -> image. Every operation is laid down with its level (one more than that of what it needs);
 * operations of one level and kind then stand together as a run. */
#include "tree.h"

#include "engine/ops.h"

#include "rigpulse/engine.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

#define CONFIG_BYTES_MAX  160u
#define PATCHES_MAX       20u
#define CORNER_PARAMS_MAX 8u

typedef struct value_ref {
    uint16_t ref;
    uint32_t level;
} value_ref;

/* A field of a config that a parameter sets. */
typedef struct live_field {
    const symbol *param;
    uint32_t offset;
    double scale, shift;
} live_field;

typedef struct operation {
    uint8_t op;
    uint32_t level, order;
    rp_span at;
    uint16_t in[STAGE_INPUTS_MAX], out;
    uint32_t config_bytes, state_bytes, fields;
    unsigned char config[CONFIG_BYTES_MAX];
    live_field field[PATCHES_MAX];
} operation;

typedef struct emitter {
    tree *t;
    uint32_t slots;
    uint32_t base[SYMBOL_BANDS + 1]; /* first slot of each kind that has its slots in a row */
    value_ref *of_symbol;            /* by place in tree.symbol; level UINT32_MAX: not yet */
    operation **operation;
    unsigned operations, operations_room;
    float *constant;
    unsigned constants, constants_room;
    rp_image_claim *claim;
    rp_image_action *action;
    rp_image_actuator *actuator;
    rp_image_rule *rule;
    uint32_t claims, actions;
    rp_image_need *need;
    unsigned needs, needs_room;
    rp_image_name *name;
    unsigned names, names_room;
    char *text;
    unsigned text_length, text_room;
} emitter;

static value_ref emit_node(emitter *e, const node *n, uint32_t target);

/* ---- constants, slots, configs --------------------------------------------------------------------- */

static uint16_t new_slot(emitter *e)
{
    if (e->slots + 1 >= RP_SLOTS_MAX) {
        report_error(e->t->report, (rp_span){0, 0}, NULL, "too many values (limit %u)", RP_SLOTS_MAX);
        return 0;
    }
    return (uint16_t)e->slots++;
}

static value_ref constant(emitter *e, double number, rp_span at)
{
    const float value = (float)number;
    if (!rp_finite(value)) {
        report_error(e->t->report, at, "the greatest is about 3e38", "this number is too large");
    }
    unsigned i = 0;
    while (i < e->constants && memcmp(&e->constant[i], &value, sizeof value) != 0) {
        i++;
    }
    if (i == e->constants) {
        *ARENA_PUSH(e->t->arena, e->constant, e->constants, e->constants_room) = value;
    }
    return (value_ref){(uint16_t)(RP_REF_CONSTANT | i), 0};
}

static operation *new_operation(emitter *e, uint8_t op, rp_span at)
{
    operation *o = arena_get(e->t->arena, sizeof *o);
    o->op = op;
    o->at = at;
    o->order = e->operations;
    *ARENA_PUSH(e->t->arena, e->operation, e->operations, e->operations_room) = o;
    return o;
}

static void set_float(operation *o, uint32_t offset, double value)
{
    const float field = (float)value;
    memcpy(o->config + offset, &field, sizeof field);
}

static void set_u32(operation *o, uint32_t offset, uint32_t value)
{
    memcpy(o->config + offset, &value, sizeof value);
}

/* A fixed value in `wanted`; a parameter also makes the field live. */
static void set_fixed(operation *o, uint32_t offset, const node *n, unit wanted)
{
    if (n->kind == NODE_NUMBER) {
        set_float(o, offset, unit_convert(n->number, n->type.unit, wanted));
        return;
    }
    live_field *f = &o->field[o->fields++];
    *f = (live_field){.param = n->symbol, .offset = offset};
    unit_conversion(n->type.unit, wanted, &f->scale, &f->shift);
    set_float(o, offset, n->symbol->initial * f->scale + f->shift);
}

/* With every parameter at its least and its greatest, in all combinations, the settings must be sound:
 * all of the blocks' conditions are linear in the fields that can be live, so the corners decide. */
static void check_corners(emitter *e, operation *o, const char *advice)
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
            return;
        }
        if (k == params) {
            param[params++] = o->field[i].param;
        }
    }
    operation probe = *o;
    for (uint32_t corner = 0; corner < 1u << params; corner++) {
        const char *where = "";
        for (uint32_t k = 0; k < params; k++) {
            const double value = corner >> k & 1u ? param[k]->greatest : param[k]->least;
            where = arena_print(e->t->arena, "%s%s %s = %g %s", where, k ? " and" : " when", param[k]->name, value,
                                param[k]->type.unit.text);
            for (uint32_t i = 0; i < o->fields; i++) {
                const live_field *f = &o->field[i];
                if (f->param == param[k]) {
                    set_float(&probe, f->offset, value * f->scale + f->shift);
                }
            }
        }
        if (rp_ops[o->op].check(probe.config) != RP_OK) {
            report_error(e->t->report, o->at, advice, "these settings are impossible%s", where);
            return;
        }
    }
}

/* Where a result goes: to `target`; with RP_REF_NONE over the input when nobody else reads that, else to
 * a slot of its own. */
static uint32_t place_for(emitter *e, const node *input, value_ref in, uint32_t target)
{
    if (target != RP_REF_NONE) {
        return target;
    }
    return input->kind == NODE_NAME || input->kind == NODE_NUMBER ? new_slot(e) : in.ref;
}

static value_ref finish(emitter *e, operation *o, const value_ref *in, uint32_t target, const char *advice)
{
    const rp_op *op = &rp_ops[o->op];
    for (uint32_t i = 0; i < op->inputs; i++) {
        o->in[i] = in[i].ref; // NOLINT(clang-analyzer-core.uninitialized.Assign): as many as the operation has
        o->level = in[i].level > o->level ? in[i].level : o->level;
    }
    o->level++;
    o->out = (uint16_t)target;
    if (op->check) {
        check_corners(e, o, advice);
        o->config_bytes = op->config_bytes(o->config);
        o->state_bytes = op->state_bytes ? op->state_bytes(o->config) : 0;
    }
    return (value_ref){o->out, o->level};
}

/* ---- nodes --------------------------------------------------------------------------------------- */

static void emit_points(operation *o, const node *n, const setting_node *s)
{
    const unit in = n->a->type.unit, out = n->type.unit;
    double first = 0.0, second = 0.0;
    node_constant(s->point[0].in, in, &first);
    node_constant(s->point[1].in, in, &second);
    for (uint32_t i = 0; i < s->points; i++) {
        const point_node *p = &s->point[second > first ? i : s->points - 1 - i];
        const uint32_t at = (uint32_t)(offsetof(rp_table_config, point) + i * sizeof(rp_table_point));
        double x = 0.0, y = 0.0;
        node_constant(p->in, in, &x);
        node_constant(p->out, out, &y);
        set_float(o, at, x);
        set_float(o, at + 4, y);
    }
    set_u32(o, offsetof(rp_table_config, count), s->points);
}

static void emit_setting(const emitter *e, operation *o, const node *n, uint32_t index)
{
    const stage_setting *is = &n->stage->setting[index];
    const setting_node *s = &n->setting[index];
    bool interval;
    const unit wanted = lang_setting_unit(e->t, n, is, &interval);
    switch (is->shape) {
    case SETTING_NUMBER:
        if (s->given) {
            set_fixed(o, is->offset, s->value, wanted);
        } else {
            set_float(o, is->offset, is->initial);
        }
        break;
    case SETTING_COUNT:
    case SETTING_ODD:
        set_u32(o, is->offset, (uint32_t)(s->given ? s->value->number : is->initial));
        break;
    case SETTING_POINTS:
        emit_points(o, n, s);
        break;
    case SETTING_FLAG:
        set_u32(o, is->offset, s->given);
        break;
    case SETTING_CHOICE:
        set_u32(o, is->offset, s->choice);
        break;
    case SETTING_SCALE_IN:
        set_float(o, is->offset, unit_convert(1.0, n->a->type.unit, wanted));
        break;
    case SETTING_SCALE_OUT:
        set_float(o, is->offset, unit_convert(1.0, wanted, n->type.unit));
        break;
    case SETTING_SIGNAL:
        break;
    }
}

static value_ref emit_stage(emitter *e, const node *n, uint32_t target)
{
    value_ref in[STAGE_INPUTS_MAX] = {emit_node(e, n->a, target)};
    uint32_t inputs = 1;
    for (uint32_t i = 0; i < STAGE_SETTINGS_MAX && n->stage->setting[i].name; i++) {
        if (n->stage->setting[i].shape == SETTING_SIGNAL) {
            in[inputs++] = emit_node(e, n->setting[i].value, RP_REF_NONE);
        }
    }
    operation *o = new_operation(e, n->stage->op, n->at);
    for (uint32_t i = 0; i < STAGE_SETTINGS_MAX && n->stage->setting[i].name; i++) {
        emit_setting(e, o, n, i);
    }
    return finish(e, o, in, place_for(e, n->a, in[0], target), n->stage->form);
}

static value_ref emit_scale(emitter *e, rp_span at, value_ref in, double gain, double offset, uint32_t target)
{
    operation *o = new_operation(e, RP_OP_LINE, at);
    set_float(o, offsetof(rp_line_config, gain), gain);
    set_float(o, offsetof(rp_line_config, offset), offset);
    return finish(e, o, &in, target, "this unit is too far from the other");
}

static value_ref emit_convert(emitter *e, const node *n, uint32_t target)
{
    double gain, offset;
    unit_conversion(n->a->type.unit, n->type.unit, &gain, &offset);
    const value_ref in = emit_node(e, n->a, target);
    return emit_scale(e, n->at, in, gain, offset, place_for(e, n->a, in, target));
}

static value_ref emit_compare(emitter *e, const node *n, uint32_t target)
{
    const unit u = n->a->type.unit;
    const value_ref in = emit_node(e, n->a, target);
    operation *o = new_operation(e, RP_OP_COMPARE, n->at);
    set_fixed(o, offsetof(rp_compare_config, limit), n->b, u);
    if (n->c) {
        set_fixed(o, offsetof(rp_compare_config, margin), n->c, unit_difference(u));
    }
    set_u32(o, offsetof(rp_compare_config, side), strcmp(n->text, "above") == 0 ? RP_COMPARE_ABOVE : RP_COMPARE_BELOW);
    return finish(e, o, &in, place_for(e, n->a, in, target), NULL);
}

static value_ref emit_equals(emitter *e, rp_span at, value_ref in, double number, uint32_t target)
{
    operation *o = new_operation(e, RP_OP_EQUALS, at);
    set_float(o, offsetof(rp_equals_config, number), number);
    return finish(e, o, &in, target, NULL);
}

static value_ref emit_is(emitter *e, const node *n, uint32_t target)
{
    const value_ref in = emit_node(e, n->a, target);
    const value_ref is = emit_equals(e, n->at, in, n->number, place_for(e, n->a, in, target));
    return n->negated ? emit_equals(e, n->at, is, 0.0, is.ref) : is;
}

static value_ref emit_not(emitter *e, const node *n, uint32_t target)
{
    const value_ref in = emit_node(e, n->a, target);
    return emit_equals(e, n->at, in, 0.0, place_for(e, n->a, in, target));
}

static value_ref emit_edge(emitter *e, const node *n, uint32_t target)
{
    const value_ref in = emit_node(e, n->a, target);
    operation *o = new_operation(e, RP_OP_EDGE, n->at);
    set_u32(o, offsetof(rp_edge_config, which), n->which);
    return finish(e, o, &in, place_for(e, n->a, in, target), NULL);
}

static value_ref emit_join(emitter *e, const node *n, uint32_t target)
{
    const value_ref a = emit_node(e, n->a, target);
    const value_ref in[2] = {a, emit_node(e, n->b, RP_REF_NONE)};
    return finish(e, new_operation(e, n->op, n->at), in, place_for(e, n->a, a, target), NULL);
}

static value_ref emit_symbol(emitter *e, const symbol *s);

/* Computes a node into the slot `target` (RP_REF_NONE: wherever there is room), or says where its value
 * lies already. */
static value_ref emit_node(emitter *e, const node *n, uint32_t target)
{
    switch (n->kind) {
    case NODE_NUMBER:
        return constant(e, n->number, n->at);
    case NODE_NAME:
        return emit_symbol(e, n->symbol);
    case NODE_JOIN:
        return emit_join(e, n, target);
    case NODE_COMPARE:
        return emit_compare(e, n, target);
    case NODE_IS:
        return emit_is(e, n, target);
    case NODE_EDGE:
        return emit_edge(e, n, target);
    case NODE_NOT:
        return emit_not(e, n, target);
    case NODE_STAGE:
        return emit_stage(e, n, target);
    case NODE_CONVERT:
        return emit_convert(e, n, target);
    case NODE_START:
        break;
    }
    return (value_ref){RP_REF_NONE, 0};
}

static value_ref emit_signal(emitter *e, const symbol *s, uint32_t target)
{
    const value_ref got = emit_node(e, s->value, target);
    if (got.ref == target) {
        return got;
    }
    if (got.ref & RP_REF_CONSTANT) {
        const value_ref sum[2] = {got, constant(e, 0.0, s->at)};
        return finish(e, new_operation(e, RP_OP_ADD, s->value->at), sum, target, NULL);
    }
    return emit_scale(e, s->value->at, got, 1.0, 0.0, target);
}

static value_ref emit_bands(emitter *e, const symbol *s, uint32_t target)
{
    const unit u = s->value->type.unit;
    const value_ref in = emit_node(e, s->value, target);
    operation *o = new_operation(e, RP_OP_BANDS, s->at);
    const uint16_t borders = (uint16_t)(s->names - 1), above = (uint16_t)s->above;
    memcpy(o->config + offsetof(rp_bands_config, borders), &borders, sizeof borders);
    memcpy(o->config + offsetof(rp_bands_config, above), &above, sizeof above);
    for (uint32_t i = 0; i < borders; i++) {
        set_fixed(o, (uint32_t)(offsetof(rp_bands_config, border) + 4 * i), s->border[i], u);
    }
    if (s->margin) {
        set_fixed(o, offsetof(rp_bands_config, margin), s->margin, unit_difference(u));
    }
    return finish(e, o, &in, target, "borders must rise, with room for the margins in every band between them");
}

static uint32_t place_of(const emitter *e, const symbol *s)
{
    uint32_t i = 0;
    while (e->t->symbol[i] != s) {
        i++;
    }
    return i;
}

static value_ref emit_symbol(emitter *e, const symbol *s)
{
    if (s->kind < SYMBOL_SIGNAL) {
        return (value_ref){(uint16_t)(e->base[s->kind] + s->index), 0};
    }
    value_ref *known = &e->of_symbol[place_of(e, s)];
    if (known->level == UINT32_MAX) {
        const uint32_t target = new_slot(e);
        *known = s->kind == SYMBOL_SIGNAL ? emit_signal(e, s, target) : emit_bands(e, s, target);
    }
    return *known;
}

/* ---- rules and claims ------------------------------------------------------------------------------ */

typedef struct claim_plan {
    uint32_t actuator, rank, priority, rule, action;
} claim_plan;

#define PLAIN UINT32_MAX

static int by_rank(const void *a, const void *b)
{
    const claim_plan *x = a, *y = b;
    if (x->actuator != y->actuator) {
        return x->actuator < y->actuator ? -1 : 1;
    }
    if (x->rank != y->rank) {
        return x->rank > y->rank ? -1 : 1;
    }
    if (x->priority != y->priority) {
        return x->priority > y->priority ? -1 : 1;
    }
    return x->action < y->action ? -1 : x->action > y->action;
}

/* For each actuator: the hand's claim, one for each timed action, and one for all plain sets. */
static claim_plan *plan_claims(emitter *e, uint32_t *count)
{
    tree *t = e->t;
    claim_plan *plan = NULL;
    unsigned plans = 0, room = 0;
    unsigned char *latched = arena_get(t->arena, t->count[SYMBOL_ACTUATOR] + 1u);
    for (uint32_t i = 0; i < t->count[SYMBOL_ACTUATOR]; i++) {
        *ARENA_PUSH(t->arena, plan, plans, room) = (claim_plan){i, RP_RANK_HAND, 0, RP_REF_NONE, PLAIN};
    }
    uint32_t at = 0;
    for (unsigned r = 0; r < t->rules; r++) {
        for (unsigned i = 0; i < t->rule[r].actions; i++, at++) {
            const action *a = &t->rule[r].action[i];
            if (a->kind != ACTION_DRIVE) {
                continue;
            }
            const uint32_t actuator = a->actuator->index;
            if (a->duration) {
                *ARENA_PUSH(t->arena, plan, plans, room) = (claim_plan){actuator, RP_RANK_TIMED, a->priority, r, at};
            } else if (!latched[actuator]) {
                latched[actuator] = 1;
                *ARENA_PUSH(t->arena, plan, plans, room) = (claim_plan){actuator, RP_RANK_LATCH, 0, RP_REF_NONE, PLAIN};
            }
        }
    }
    if (plans > 0) {
        qsort(plan, plans, sizeof *plan, by_rank);
    }
    *count = plans;
    return plan;
}

static uint16_t find_claim(const claim_plan *plan, uint32_t plans, uint32_t actuator, uint32_t rank, uint32_t number)
{
    uint32_t i = 0;
    while (i < plans && !(plan[i].actuator == actuator && plan[i].rank == rank && plan[i].action == number)) {
        i++;
    }
    return (uint16_t)i;
}

static void emit_claims(emitter *e, const claim_plan *plan, uint32_t plans)
{
    e->claim = arena_get(e->t->arena, (plans + 1) * sizeof *e->claim);
    e->claims = plans;
    for (uint32_t i = 0; i < plans; i++) {
        e->claim[i] = (rp_image_claim){
            .actuator = (uint16_t)plan[i].actuator, .rank = (uint8_t)plan[i].rank, .source = (uint16_t)plan[i].rule};
        rp_image_actuator *a = &e->actuator[plan[i].actuator];
        a->first_claim = a->claims ? a->first_claim : (uint16_t)i;
        a->claims++;
    }
}

static uint16_t emit_value(emitter *e, const node *n, unit wanted)
{
    if (n->kind == NODE_NUMBER) {
        double number = n->number;
        if (!unit_is_bare(n->type.unit)) {
            number = unit_convert(n->number, n->type.unit, wanted);
        }
        return constant(e, number, n->at).ref;
    }
    value_ref got = emit_node(e, n, RP_REF_NONE);
    if (n->type.unit.scale != wanted.scale) {
        double gain, offset;
        unit_conversion(n->type.unit, wanted, &gain, &offset);
        got = emit_scale(e, n->at, got, gain, offset, new_slot(e));
    }
    return got.ref;
}

static void emit_rules(emitter *e)
{
    tree *t = e->t;
    uint32_t plans;
    const claim_plan *plan = plan_claims(e, &plans);
    emit_claims(e, plan, plans);
    uint32_t total = 0;
    for (unsigned r = 0; r < t->rules; r++) {
        total += t->rule[r].actions;
    }
    e->rule = arena_get(t->arena, (t->rules + 1u) * sizeof *e->rule);
    e->action = arena_get(t->arena, (total + 1u) * sizeof *e->action);
    for (unsigned r = 0; r < t->rules; r++) {
        const rule *from = &t->rule[r];
        rp_image_rule *to = &e->rule[r];
        *to = (rp_image_rule){
            .repeats = from->repeats, .first_action = (uint16_t)e->actions, .actions = (uint8_t)from->actions};
        const node *trigger = from->trigger;
        to->trigger = trigger->kind == NODE_START ? RP_REF_NONE : emit_node(e, trigger, RP_REF_NONE).ref;
        to->holdoff = from->holdoff ? emit_value(e, from->holdoff, unit_seconds) : constant(e, 0.0, from->at).ref;
        for (unsigned i = 0; i < from->actions; i++, e->actions++) {
            const action *a = &from->action[i];
            rp_image_action *made = &e->action[e->actions];
            if (a->kind == ACTION_RELEARN) {
                *made = (rp_image_action){.kind = RP_ACTION_RELEARN, .value = emit_symbol(e, a->signal).ref};
                continue;
            }
            if (a->kind == ACTION_MARK) {
                *made = (rp_image_action){.kind = RP_ACTION_MARK};
                continue;
            }
            const bool timed = a->duration != NULL;
            *made = (rp_image_action){
                .kind = timed ? RP_ACTION_TIMED : RP_ACTION_SET,
                .claim = find_claim(plan, plans, a->actuator->index, timed ? RP_RANK_TIMED : RP_RANK_LATCH,
                                    timed ? e->actions : PLAIN),
                .value = emit_value(e, a->value, unit_percent),
                .duration = timed ? emit_value(e, a->duration, unit_seconds) : 0,
            };
        }
    }
}

/* ---- which rules need which sensors ---------------------------------------------------------------- */

static void mark_symbol(const tree *t, const symbol *s, unsigned char *seen);

/* Marks, by place in tree.symbol, all that a node needs. */
static void mark_node(const tree *t, const node *n, unsigned char *seen)
{
    if (!n) {
        return;
    }
    if (n->symbol) {
        mark_symbol(t, n->symbol, seen);
    }
    mark_node(t, n->a, seen);
    mark_node(t, n->b, seen);
    mark_node(t, n->c, seen);
    for (uint32_t i = 0; n->setting && i < STAGE_SETTINGS_MAX; i++) {
        mark_node(t, n->setting[i].value, seen);
    }
}

static void mark_symbol(const tree *t, const symbol *s, unsigned char *seen)
{
    uint32_t place = 0;
    while (t->symbol[place] != s) {
        place++;
    }
    if (!seen[place]) {
        seen[place] = 1;
        mark_node(t, s->value, seen);
    }
}

static void emit_needs(emitter *e)
{
    tree *t = e->t;
    unsigned char *seen = arena_get(t->arena, t->symbols + 1u);
    for (unsigned r = 0; r < t->rules; r++) {
        memset(seen, 0, t->symbols);
        mark_node(t, t->rule[r].trigger, seen);
        for (unsigned i = 0; i < t->rule[r].actions; i++) {
            mark_node(t, t->rule[r].action[i].value, seen);
            mark_node(t, t->rule[r].action[i].duration, seen);
        }
        for (unsigned i = 0; i < t->symbols; i++) {
            if (seen[i] && t->symbol[i]->kind == SYMBOL_SENSOR && t->symbol[i]->fault) {
                *ARENA_PUSH(t->arena, e->need, e->needs, e->needs_room) =
                    (rp_image_need){(uint16_t)t->symbol[i]->index, (uint16_t)r};
            }
        }
    }
}

/* ---- names --------------------------------------------------------------------------------------- */

static uint32_t add_text(emitter *e, const char *text)
{
    const uint32_t at = e->text_length;
    do {
        *ARENA_PUSH(e->t->arena, e->text, e->text_length, e->text_room) = *text;
    } while (*text++);
    return at;
}

static void add_name(emitter *e, uint32_t kind, uint32_t index, uint32_t part, rp_span at, const char *text,
                     const char *unit_text)
{
    const uint32_t line = report_line(e->t->report, at.start);
    const rp_image_name name = {
        .kind = (uint16_t)kind,
        .index = (uint16_t)index,
        .part = (uint16_t)part,
        .line = (uint16_t)(line > UINT16_MAX ? UINT16_MAX : line),
        .text = add_text(e, text),
        .unit = unit_text && *unit_text ? add_text(e, unit_text) : 0,
    };
    *ARENA_PUSH(e->t->arena, e->name, e->names, e->names_room) = name;
}

static void name_symbol(emitter *e, const symbol *s)
{
    const uint16_t slot = emit_symbol(e, s).ref;
    add_name(e, RP_NAME_SLOT, slot, 0, s->at, s->name, s->type.unit.text);
    for (uint32_t i = 0; i < s->names; i++) {
        add_name(e, RP_NAME_PART, slot, i, s->at, s->name_of[i].name, NULL);
    }
    if (s->type.kind == TYPE_TRUTH) {
        add_name(e, RP_NAME_PART, slot, 0, s->at, "no", NULL);
        add_name(e, RP_NAME_PART, slot, 1, s->at, "yes", NULL);
    }
}

static void emit_names(emitter *e)
{
    tree *t = e->t;
    add_text(e, "");
    add_name(e, RP_NAME_RIG, 0, 0, (rp_span){0, 0}, t->name, NULL);
    for (symbol_kind kind = SYMBOL_PARAM; kind <= SYMBOL_BANDS; kind++) {
        for (unsigned i = 0; i < t->symbols; i++) {
            if (t->symbol[i]->kind == kind) {
                name_symbol(e, t->symbol[i]);
            }
        }
    }
    uint32_t at = 0;
    for (unsigned r = 0; r < t->rules; r++) {
        const rule *from = &t->rule[r];
        const char *text = arena_copy(t->arena, t->report->source + from->at.start, from->at.end - from->at.start);
        add_name(e, RP_NAME_RULE, r, 0, from->at, text, NULL);
        for (unsigned i = 0; i < from->actions; i++, at++) {
            if (from->action[i].kind == ACTION_MARK) {
                add_name(e, RP_NAME_MARK, at, 0, from->action[i].at, from->action[i].text, NULL);
            }
        }
    }
}

/* ---- the image ----------------------------------------------------------------------------------- */

static bool is_live(const operation *o)
{
    return o->fields > 0;
}

static int by_run(const void *a, const void *b)
{
    const operation *x = *(operation *const *)a, *y = *(operation *const *)b;
    const uint32_t kx[] = {x->level, x->op, is_live(x), x->config_bytes, x->state_bytes, x->order};
    const uint32_t ky[] = {y->level, y->op, is_live(y), y->config_bytes, y->state_bytes, y->order};
    for (uint32_t i = 0; i < sizeof kx / sizeof *kx; i++) {
        if (kx[i] != ky[i]) {
            return kx[i] < ky[i] ? -1 : 1;
        }
    }
    return 0;
}

static bool same_run(const operation *x, const operation *y)
{
    return x->level == y->level && x->op == y->op && is_live(x) == is_live(y) && x->config_bytes == y->config_bytes &&
           x->state_bytes == y->state_bytes;
}

typedef struct run_lists {
    rp_image_run *run;
    uint16_t *operand;
    uint32_t *config[2];
    rp_image_patch *patch;
    unsigned runs, runs_room, operands, operands_room, configs[2], configs_room[2], patches, patches_room;
} run_lists;

static void lay_operation(emitter *e, run_lists *to, const operation *o)
{
    rp_arena *arena = e->t->arena;
    const uint32_t live = is_live(o), inputs = rp_ops[o->op].inputs;
    for (uint32_t i = 0; i < inputs; i++) {
        *ARENA_PUSH(arena, to->operand, to->operands, to->operands_room) = o->in[i];
    }
    *ARENA_PUSH(arena, to->operand, to->operands, to->operands_room) = o->out;
    const uint32_t base = 4 * to->configs[live];
    for (uint32_t i = 0; i < o->config_bytes; i += 4) {
        memcpy(ARENA_PUSH(arena, to->config[live], to->configs[live], to->configs_room[live]), o->config + i, 4);
    }
    for (uint32_t i = 0; i < o->fields; i++) {
        const live_field *f = &o->field[i];
        *ARENA_PUSH(arena, to->patch, to->patches, to->patches_room) =
            (rp_image_patch){.param = (uint16_t)f->param->index,
                             .live_offset = base + f->offset,
                             .scale = (float)f->scale,
                             .offset = (float)f->shift};
    }
}

static run_lists lay_runs(emitter *e)
{
    run_lists to = {0};
    if (e->operations > 0) {
        qsort(e->operation, e->operations, sizeof *e->operation, by_run);
    }
    for (unsigned i = 0; i < e->operations; i++) {
        const operation *o = e->operation[i];
        if (i == 0 || !same_run(o, e->operation[i - 1])) {
            *ARENA_PUSH(e->t->arena, to.run, to.runs, to.runs_room) =
                (rp_image_run){o->op, is_live(o), 0, (uint16_t)o->config_bytes, (uint16_t)o->state_bytes};
        }
        to.run[to.runs - 1].count++;
        lay_operation(e, &to, o);
    }
    return to;
}

static rp_image_sensor describe_sensor(const symbol *s)
{
    return (rp_image_sensor){
        .vet = {.low = (int32_t)s->least,
                .high = (int32_t)s->greatest,
                .pinned = s->pinned,
                .due_us = (uint32_t)(s->every_s * 1e6 + 0.5),
                .stuck = (float)s->stuck_s,
                .jump = (float)s->jump_per_s},
        .kind = s->is_switch                 ? RP_SENSOR_SWITCH
                : s->type.kind == TYPE_NAMED ? RP_SENSOR_NAMES
                                             : RP_SENSOR_NUMBER,
        .vetted = s->pinned || s->stuck || s->jump || s->every || s->fault,
        .fault_after = (float)s->fault_s,
    };
}

static void describe_channels(emitter *e, rp_image_sensor *sensor, rp_image_param *param)
{
    for (unsigned i = 0; i < e->t->symbols; i++) {
        const symbol *s = e->t->symbol[i];
        if (s->kind == SYMBOL_SENSOR) {
            sensor[s->index] = describe_sensor(s);
        } else if (s->kind == SYMBOL_PARAM) {
            param[s->index] = (rp_image_param){(float)s->initial, (float)s->least, (float)s->greatest};
        } else if (s->kind == SYMBOL_ACTUATOR) {
            rp_image_actuator *a = &e->actuator[s->index];
            a->low = (float)s->least;
            a->high = (float)s->greatest;
            a->rest = (float)s->initial;
            a->kind = s->is_switch;
        }
    }
}

static unsigned char *lay_sections(emitter *e, const void *const *section, const uint32_t *count, uint32_t *size)
{
    static const uint32_t bytes[RP_SECTIONS] = {
#define SECTION_BYTES(name, type) sizeof(type),
        RP_SECTION_LIST(SECTION_BYTES)
#undef SECTION_BYTES
    };
    rp_image_header header = {.magic = RP_IMAGE_MAGIC,
                              .version = RP_IMAGE_VERSION,
                              .sections = RP_SECTIONS,
                              .tick_us = e->t->tick_us,
                              .slots = e->slots};
    uint32_t end = sizeof header;
    for (uint32_t i = 0; i < RP_SECTIONS; i++) {
        end = (end + 7u) & ~7u;
        header.section[i] = (rp_image_section){end, count[i]};
        end += count[i] * bytes[i];
    }
    header.size = (end + 7u) & ~7u;
    unsigned char *image = arena_get(e->t->arena, header.size);
    memcpy(image, &header, sizeof header);
    for (uint32_t i = 0; i < RP_SECTIONS; i++) {
        if (count[i] > 0) {
            memcpy(image + header.section[i].offset, section[i], count[i] * bytes[i]);
        }
    }
    header.memory = rp_image_memory((const rp_image_header *)(void *)image);
    memcpy(image, &header, sizeof header);
    header.checksum = rp_image_checksum(image, header.size);
    memcpy(image, &header, sizeof header);
    *size = header.size;
    return image;
}

static void *lay_image(emitter *e, uint32_t *size)
{
    tree *t = e->t;
    rp_image_sensor *sensor = arena_get(t->arena, (t->count[SYMBOL_SENSOR] + 1u) * sizeof *sensor);
    rp_image_param *param = arena_get(t->arena, (t->count[SYMBOL_PARAM] + 1u) * sizeof *param);
    describe_channels(e, sensor, param);
    const run_lists runs = lay_runs(e);
    const void *const section[RP_SECTIONS] = {
        [RP_SECTION_SENSORS] = sensor,         [RP_SECTION_ACTUATORS] = e->actuator,
        [RP_SECTION_PARAMS] = param,           [RP_SECTION_CONSTANTS] = e->constant,
        [RP_SECTION_RUNS] = runs.run,          [RP_SECTION_OPERANDS] = runs.operand,
        [RP_SECTION_CONFIGS] = runs.config[0], [RP_SECTION_LIVE_CONFIGS] = runs.config[1],
        [RP_SECTION_PATCHES] = runs.patch,     [RP_SECTION_CLAIMS] = e->claim,
        [RP_SECTION_ACTIONS] = e->action,      [RP_SECTION_RULES] = e->rule,
        [RP_SECTION_NEEDS] = e->need,          [RP_SECTION_NAMES] = e->name,
        [RP_SECTION_TEXT] = e->text,
    };
    const uint32_t count[RP_SECTIONS] = {
        [RP_SECTION_SENSORS] = t->count[SYMBOL_SENSOR],
        [RP_SECTION_ACTUATORS] = t->count[SYMBOL_ACTUATOR],
        [RP_SECTION_PARAMS] = t->count[SYMBOL_PARAM],
        [RP_SECTION_CONSTANTS] = e->constants,
        [RP_SECTION_RUNS] = runs.runs,
        [RP_SECTION_OPERANDS] = runs.operands,
        [RP_SECTION_CONFIGS] = runs.configs[0],
        [RP_SECTION_LIVE_CONFIGS] = runs.configs[1],
        [RP_SECTION_PATCHES] = runs.patches,
        [RP_SECTION_CLAIMS] = e->claims,
        [RP_SECTION_ACTIONS] = e->actions,
        [RP_SECTION_RULES] = t->rules,
        [RP_SECTION_NEEDS] = e->needs,
        [RP_SECTION_NAMES] = e->names,
        [RP_SECTION_TEXT] = e->text_length,
    };
    for (uint32_t i = 0; i < RP_SECTIONS; i++) {
        if (i != RP_SECTION_TEXT && i != RP_SECTION_CONFIGS && count[i] >= RP_SLOTS_MAX) {
            report_error(t->report, (rp_span){0, 0}, "divide the rig", "this rig is too large for an image");
            return NULL;
        }
    }
    return lay_sections(e, section, count, size);
}

void *lang_emit(tree *t, uint32_t *size)
{
    emitter e = {.t = t};
    e.base[SYMBOL_SENSOR] = t->count[SYMBOL_PARAM];
    e.base[SYMBOL_ACTUATOR] = e.base[SYMBOL_SENSOR] + t->count[SYMBOL_SENSOR];
    e.slots = e.base[SYMBOL_ACTUATOR] + t->count[SYMBOL_ACTUATOR];
    e.actuator = arena_get(t->arena, (t->count[SYMBOL_ACTUATOR] + 1u) * sizeof *e.actuator);
    e.of_symbol = arena_get(t->arena, (t->symbols + 1u) * sizeof *e.of_symbol);
    for (unsigned i = 0; i < t->symbols; i++) {
        e.of_symbol[i].level = UINT32_MAX;
    }
    const bool whole = t->report->errors == 0;
    for (unsigned i = 0; i < t->symbols; i++) {
        if (t->symbol[i]->type.kind != TYPE_UNKNOWN) {
            emit_symbol(&e, t->symbol[i]);
        }
    }
    if (whole) {
        emit_rules(&e);
        emit_needs(&e);
        emit_names(&e);
    }
    return t->report->errors ? NULL : lay_image(&e, size);
}
