/* Nodes and symbols -> operations. */
#include "emit.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

/* Without the last digits of a float. */
static double shown(double number)
{
    const double unit_of_it = pow(10.0, floor(log10(fmax(fabs(number), 1e-300))) - 5.0);
    return number == 0.0 ? 0.0 : round(number / unit_of_it) * unit_of_it;
}

static void emit_points(operation *o, const node *n, const setting_node *s)
{
    const unit in = n->a->type.unit, out = n->type.unit;
    double first = 0.0, second = 0.0;
    node_constant(s->point[0].in, in, &first);
    node_constant(s->point[1].in, in, &second);
    for (uint32_t i = 0; i < s->points; i++) {
        const point_node *p = &s->point[second > first ? i : s->points - 1 - i];
        const uint32_t at = (uint32_t)(offsetof(rgp_table_config, point) + i * sizeof(rgp_table_point));
        double x = 0.0, y = 0.0;
        node_constant(p->in, in, &x);
        node_constant(p->out, out, &y);
        emit_set_float(o, at, x);
        emit_set_float(o, at + 4, y);
    }
    emit_set_u32(o, offsetof(rgp_table_config, count), s->points);
}

static void emit_setting(const emitter *e, operation *o, const node *n, uint32_t index)
{
    const stage_setting *is = &n->stage->setting[index];
    const setting_node *s = &n->setting[index];
    bool interval;
    const unit wanted = lang_setting_unit(e->t, n, is, &interval);
    switch (is->shape) {
    case SETTING_NUMBER:
    case SETTING_FROM:
    case SETTING_UPTO:
        if (s->given) {
            emit_set_fixed(o, is->offset, s->value, wanted);
        } else {
            emit_set_float(o, is->offset, is->initial);
        }
        break;
    case SETTING_COUNT:
        emit_set_u32(o, is->offset, (uint32_t)(s->given ? s->value->number : is->initial));
        break;
    case SETTING_POINTS:
        emit_points(o, n, s);
        break;
    case SETTING_FLAG:
        emit_set_u32(o, is->offset, s->given);
        break;
    case SETTING_KIND:
        if (s->given) {
            emit_set_u32(o, is->offset, (uint32_t)is->initial);
        }
        break;
    case SETTING_CHOICE:
        emit_set_u32(o, is->offset, s->choice);
        break;
    case SETTING_SCALE_IN:
        emit_set_float(o, is->offset, unit_convert(1.0, n->a->type.unit, wanted));
        break;
    case SETTING_SCALE_OUT:
        emit_set_float(o, is->offset, unit_convert(1.0, wanted, n->type.unit));
        break;
    case SETTING_FIXED:
        emit_set_u32(o, is->offset, (uint32_t)is->initial);
        break;
    case SETTING_FIXED_FLOAT:
        emit_set_float(o, is->offset, is->initial);
        break;
    case SETTING_IS_EVENT:
        emit_set_u32(o, is->offset, n->a->type.kind == TYPE_EVENT);
        break;
    case SETTING_SIGNAL:
    case SETTING_VALUE:
    case SETTING_CONDITION:
    case SETTING_SWITCH:
        break;
    }
}

/* A slot that always has the same number, for operations that take no constants. */
static value_ref emit_steady(emitter *e, value_ref constant, text_range at)
{
    const value_ref sum[2] = {constant, emit_constant(e, 0.0, at)};
    return emit_finish(e, emit_operation(e, RGP_OP_ADD, at), sum, emit_new_slot(e), NULL);
}

/* A table that says nothing of what lies beyond its points, of readings that go there. */
static void warn_beyond_points(const emitter *e, const operation *o, const node *n, value_range in)
{
    const rgp_table_config *table = (const void *)o->config;
    const double first = (double)table->point[0].in, last = (double)table->point[table->count - 1].in;
    const double room = (double)RGP_TABLE_STRICT_BY * (last - first);
    bool said = false;
    for (uint32_t i = 1; n->stage->setting[i].name; i++) {
        said |= n->setting[i].given;
    }
    if (!said && in.known && (in.low < first - room || in.high > last + room)) {
        const char *u = n->a->type.unit.text;
        report_warning(e->t->report, n->at,
                       "say 'clamped' if the end value is meant to stand there, else 'strict' or 'extended'",
                       "readings can be from %g to %g%s%s, and the table goes from %g to %g", shown(in.low),
                       shown(in.high), *u ? " " : "", u, shown(first), shown(last));
    }
}

/* The fastest turn of an unwrapped angle: what the sensor at its head says, where that is of the same kind. */
static void set_fastest(operation *o, const node *n)
{
    const node *head = n->a;
    while (head->kind == NODE_STAGE) {
        head = head->a;
    }
    const symbol *s = head->kind == NODE_NAME ? head->symbol : NULL;
    const bool known = s && s->kind == SYMBOL_SENSOR && s->jump && unit_same_kind(s->type.unit, n->a->type.unit);
    emit_set_float(o, offsetof(rgp_unwrap_config, fastest),
                   known ? unit_convert(s->jump_per_s, unit_difference(s->type.unit), unit_difference(n->a->type.unit))
                         : 0.0);
}

static bool is_input(const stage_setting *is)
{
    return is->shape == SETTING_SIGNAL || is->shape == SETTING_VALUE || is->shape == SETTING_CONDITION ||
           is->shape == SETTING_SWITCH;
}

/* A stage that steps on new readings only has a slot that nobody else writes to: its value may have to stand there. */
static bool steps_on_news(const node *n)
{
    return n->kind == NODE_STAGE && rgp_ops[n->stage->op].steps == RGP_STEPS_NEW;
}

value_ref emit_inner(emitter *e, const node *n, uint32_t target)
{
    return emit_node(e, n, steps_on_news(n) || e->t->traced ? RGP_REF_NONE : target);
}

static uint32_t place_of_stage(emitter *e, const node *n, value_ref in, uint32_t target)
{
    return steps_on_news(n) && target == RGP_REF_NONE ? emit_new_slot(e) : emit_place_for(e, n->a, in, target);
}

static value_ref emit_stage(emitter *e, const node *n, uint32_t target)
{
    value_ref in[STAGE_INPUTS_MAX] = {emit_inner(e, n->a, steps_on_news(n) ? RGP_REF_NONE : target)};
    uint32_t inputs = 1;
    for (uint32_t i = 0; i < STAGE_SETTINGS_MAX && n->stage->setting[i].name; i++) {
        if (is_input(&n->stage->setting[i])) {
            const node *value = n->setting[i].value;
            bool interval;
            if (value->kind == NODE_NUMBER) {
                const unit wanted = lang_setting_unit(e->t, n, &n->stage->setting[i], &interval);
                in[inputs++] = emit_steady(
                    e, emit_constant(e, unit_convert(value->number, value->type.unit, wanted), value->at), value->at);
            } else {
                in[inputs++] = emit_node(e, value, RGP_REF_NONE);
            }
        }
    }
    operation *o = emit_operation(e, n->stage->op, n->at);
    for (uint32_t i = 0; i < STAGE_SETTINGS_MAX && n->stage->setting[i].name; i++) {
        emit_setting(e, o, n, i);
    }
    if (o->op == RGP_OP_TABLE) {
        warn_beyond_points(e, o, n, in[0].value_range);
    } else if (o->op == RGP_OP_UNWRAP) {
        set_fastest(o, n);
    }
    return emit_finish(e, o, in, place_of_stage(e, n, in[0], target), n->stage->form);
}

value_ref emit_scale(emitter *e, text_range at, value_ref in, double gain, double offset, uint32_t target)
{
    operation *o = emit_operation(e, RGP_OP_LINE, at);
    emit_set_float(o, offsetof(rgp_line_config, gain), gain);
    emit_set_float(o, offsetof(rgp_line_config, offset), offset);
    return emit_finish(e, o, &in, target, "this unit is too far from the other");
}

static value_ref emit_convert(emitter *e, const node *n, uint32_t target)
{
    double gain, offset;
    unit_conversion(n->a->type.unit, n->type.unit, &gain, &offset);
    const value_ref in = emit_inner(e, n->a, target);
    return emit_scale(e, n->at, in, gain, offset, emit_place_for(e, n->a, in, target));
}

/* A state that is entered at a limit is left only past the whole margin on the way back. `above`: it is entered
 * upwards. Returns the room that there is when the value cannot come so far; else 0. */
static double too_little_room(value_range in, double limit, double margin, bool above)
{
    const double room = above ? limit - in.low : in.high - limit;
    const bool within = in.known && limit > in.low && limit < in.high;
    return within && margin > room ? room : 0.0;
}

static bool is_number(const node *n)
{
    return n && n->kind == NODE_NUMBER;
}

static void warn_trap(emitter *e, const node *margin, double room, const char *unit_text, const char *what)
{
    report_warning(e->t->report, margin->at,
                   arena_print(e->t->arena, "it can come back by %g%s%s: take less", shown(room), *unit_text ? " " : "",
                               unit_text),
                   "with this margin %s: what is looked at cannot come back so far", what);
}

static void warn_trapping_limit(emitter *e, const node *n, value_range in, const rgp_compare_config *config)
{
    const bool above = config->side == RGP_COMPARE_ABOVE;
    const double room = too_little_room(in, (double)config->limit, (double)config->margin, above);
    if (is_number(n->b) && is_number(n->c) && room > 0.0) {
        warn_trap(e, n->c, room, n->a->type.unit.text, "this is true for ever once it is");
    }
}

static void warn_trapping_band(emitter *e, const symbol *s, value_range in, const rgp_bands_config *config)
{
    for (uint32_t i = 0; is_number(s->margin) && i < config->borders; i++) {
        const bool above = config->above >> i & 1u;
        const double room = too_little_room(in, (double)config->border[i], (double)config->margin, above);
        if (is_number(s->border[i]) && room > 0.0) {
            warn_trap(e, s->margin, room, s->value->type.unit.text,
                      arena_print(e->t->arena, "'%s' stays %s for ever once it is", s->name,
                                  s->name_of[above ? i + 1 : i].name));
            return;
        }
    }
}

static value_ref emit_compare(emitter *e, const node *n, uint32_t target)
{
    const unit u = n->a->type.unit;
    const value_ref in = emit_inner(e, n->a, target);
    operation *o = emit_operation(e, RGP_OP_COMPARE, n->at);
    emit_set_fixed(o, offsetof(rgp_compare_config, limit), n->b, u);
    if (n->c) {
        emit_set_fixed(o, offsetof(rgp_compare_config, margin), n->c, unit_difference(u));
    }
    emit_set_u32(o, offsetof(rgp_compare_config, side),
                 strcmp(n->text, "above") == 0 ? RGP_COMPARE_ABOVE : RGP_COMPARE_BELOW);
    rgp_compare_config config;
    memcpy(&config, o->config, sizeof config);
    warn_trapping_limit(e, n, in.value_range, &config);
    const value_ref made = emit_finish(e, o, &in, emit_place_for(e, n->a, in, target), NULL);
    if (made.value_range.known && made.value_range.low == made.value_range.high) {
        report_warning(e->t->report, n->at, "change the limit, or what is compared",
                       "this is %s true: %s lies from %g to %g%s%s", made.value_range.high > 0.0 ? "always" : "never",
                       n->a->kind == NODE_NAME ? n->a->symbol->name : "it", shown(in.value_range.low),
                       shown(in.value_range.high), *u.text ? " " : "", u.text);
    }
    return made;
}

static value_ref emit_equals(emitter *e, text_range at, value_ref in, double number, uint32_t target)
{
    operation *o = emit_operation(e, RGP_OP_EQUALS, at);
    emit_set_float(o, offsetof(rgp_equals_config, number), number);
    return emit_finish(e, o, &in, target, NULL);
}

static value_ref emit_is(emitter *e, const node *n, uint32_t target)
{
    const value_ref in = emit_inner(e, n->a, target);
    const value_ref is = emit_equals(e, n->at, in, n->number, emit_place_for(e, n->a, in, target));
    if (is.value_range.known && is.value_range.low == is.value_range.high && n->a->type.kind == TYPE_NAMED) {
        report_warning(e->t->report, n->at, "change the bands' borders, or what they are made of", "'%s' is %s %s",
                       n->a->type.symbol->name, is.value_range.high > 0.0 ? "always" : "never", n->text);
    }
    return n->negated ? emit_equals(e, n->at, is, 0.0, emit_over(e, is.ref)) : is;
}

static value_ref emit_known(emitter *e, const node *n, uint32_t target)
{
    const value_ref in = emit_inner(e, n->a, target);
    const value_ref is =
        emit_finish(e, emit_operation(e, RGP_OP_KNOWN, n->at), &in, emit_place_for(e, n->a, in, target), NULL);
    return n->negated ? emit_equals(e, n->at, is, 0.0, emit_over(e, is.ref)) : is;
}

static value_ref emit_not(emitter *e, const node *n, uint32_t target)
{
    const value_ref in = emit_inner(e, n->a, target);
    return emit_equals(e, n->at, in, 0.0, emit_place_for(e, n->a, in, target));
}

static value_ref emit_edge(emitter *e, const node *n, uint32_t target)
{
    const value_ref in = emit_inner(e, n->a, target);
    operation *o = emit_operation(e, RGP_OP_EDGE, n->at);
    emit_set_u32(o, offsetof(rgp_edge_config, which), n->which);
    return emit_finish(e, o, &in, emit_place_for(e, n->a, in, target), NULL);
}

static value_ref emit_lasts(emitter *e, const node *n, uint32_t target)
{
    const value_ref in = emit_inner(e, n->a, target);
    operation *o = emit_operation(e, RGP_OP_LASTS, n->at);
    emit_set_fixed(o, offsetof(rgp_lasts_config, time), n->b, unit_seconds);
    return emit_finish(e, o, &in, emit_place_for(e, n->a, in, target), NULL);
}

/* A detector without input looks at something that is always true. */
static value_ref emit_detect(emitter *e, const node *n, uint32_t target)
{
    const detector_word *word = n->detector;
    const node *const setting[DETECTOR_SETTINGS_MAX] = {n->b, n->c, n->d};
    const bool alone = word->input == DETECTS_NOTHING;
    const value_ref in = alone ? emit_steady(e, emit_constant(e, 1.0, n->at), n->at) : emit_inner(e, n->a, target);
    operation *o = emit_operation(e, word->op, n->at);
    for (uint32_t i = 0; i < DETECTOR_SETTINGS_MAX && setting[i]; i++) {
        const bool interval = word->setting[i].unit == UNIT_IN_INTERVAL;
        emit_set_fixed(o, word->setting[i].offset, setting[i],
                       interval ? unit_difference(n->a->type.unit) : unit_seconds);
    }
    if (word->has_which) {
        emit_set_u32(o, word->which_offset, (uint32_t)n->number);
    }
    const uint32_t place = !alone                   ? emit_place_for(e, n->a, in, target)
                           : target != RGP_REF_NONE ? target
                                                    : emit_new_slot(e);
    return emit_finish(e, o, &in, place, "the margin must not be greater than the amount");
}

static value_ref emit_join(emitter *e, const node *n, uint32_t target)
{
    const value_ref a = emit_inner(e, n->a, target);
    const value_ref in[2] = {a, emit_node(e, n->b, RGP_REF_NONE)};
    return emit_finish(e, emit_operation(e, n->op, n->at), in, emit_place_for(e, n->a, a, target), NULL);
}

static value_ref emit_apply(emitter *e, const node *n, uint32_t target)
{
    const value_ref in = emit_inner(e, n->a, target);
    return emit_finish(e, emit_operation(e, n->op, n->at), &in, emit_place_for(e, n->a, in, target), NULL);
}

static value_ref emit_kind(emitter *e, const node *n, uint32_t target)
{
    switch (n->kind) {
    case NODE_NUMBER:
        return emit_constant(e, n->number, n->at);
    case NODE_NAME:
        return emit_symbol(e, n->symbol);
    case NODE_JOIN:
        return emit_join(e, n, target);
    case NODE_APPLY:
        return emit_apply(e, n, target);
    case NODE_COMPARE:
        return emit_compare(e, n, target);
    case NODE_IS:
        return emit_is(e, n, target);
    case NODE_EDGE:
        return emit_edge(e, n, target);
    case NODE_NOT:
        return emit_not(e, n, target);
    case NODE_LASTS:
        return emit_lasts(e, n, target);
    case NODE_DETECT:
        return emit_detect(e, n, target);
    case NODE_STAGE:
        return emit_stage(e, n, target);
    case NODE_CONVERT:
        return emit_convert(e, n, target);
    case NODE_KNOWN:
        return emit_known(e, n, target);
    case NODE_LOOP:
        return e->of_symbol[n->loop->term[n->which]->place];
    case NODE_START:
        break;
    }
    const value_ref always = emit_steady(e, emit_constant(e, 1.0, n->at), n->at);
    const uint32_t place = target != RGP_REF_NONE ? target : emit_new_slot(e);
    return emit_finish(e, emit_operation(e, RGP_OP_ONCE, n->at), &always, place, NULL);
}

/* The range of a stage, and of a condition, is that of its words: what they are said of stands before them. */
static void note_origin(const emitter *e, const node *n, uint16_t slot)
{
    uint32_t start = n->at.start;
    for (const node *first = n->a; first; first = first->a) {
        start = first->at.start < start ? first->at.start : start;
    }
    const char *u = n->type.kind == TYPE_NUMBER ? n->type.unit.text : "";
    e->t->origin[slot] = (rgp_origin){start, n->at.end - start, u};
}

value_ref emit_node(emitter *e, const node *n, uint32_t target)
{
    const value_ref got = emit_kind(e, n, target);
    if (e->t->origin && n->kind != NODE_NAME && got.ref < RGP_SLOTS_MAX) {
        note_origin(e, n, got.ref);
    }
    return got;
}

static value_ref emit_signal(emitter *e, const symbol *s, uint32_t target)
{
    const value_ref got = emit_node(e, s->value, target);
    if (got.ref == target) {
        return got;
    }
    if (got.ref & RGP_REF_CONSTANT) {
        const value_ref sum[2] = {got, emit_constant(e, 0.0, s->at)};
        return emit_finish(e, emit_operation(e, RGP_OP_ADD, s->value->at), sum, target, NULL);
    }
    return emit_scale(e, s->value->at, got, 1.0, 0.0, target);
}

static value_ref emit_bands(emitter *e, const symbol *s, uint32_t target)
{
    const unit u = s->value->type.unit;
    const value_ref in = emit_inner(e, s->value, target);
    operation *o = emit_operation(e, RGP_OP_BANDS, s->at);
    const uint16_t borders = (uint16_t)(s->names - 1), above = (uint16_t)s->above;
    memcpy(o->config + offsetof(rgp_bands_config, borders), &borders, sizeof borders);
    memcpy(o->config + offsetof(rgp_bands_config, above), &above, sizeof above);
    for (uint32_t i = 0; i < borders; i++) {
        emit_set_fixed(o, (uint32_t)(offsetof(rgp_bands_config, border) + 4 * i), s->border[i], u);
    }
    if (s->margin) {
        emit_set_fixed(o, offsetof(rgp_bands_config, margin), s->margin, unit_difference(u));
    }
    rgp_bands_config config;
    memcpy(&config, o->config, sizeof config);
    warn_trapping_band(e, s, in.value_range, &config);
    return emit_finish(e, o, &in, target, "borders must rise, with room for the margins in every band between them");
}

void emit_reserve(emitter *e, const symbol *s)
{
    if (s->kind >= SYMBOL_SIGNAL) {
        e->of_symbol[s->place].ref = emit_new_slot(e);
    }
}

value_ref emit_symbol(emitter *e, const symbol *s)
{
    if (s->kind < SYMBOL_SIGNAL) {
        const bool ranged = s->type.kind != TYPE_UNKNOWN && s->kind <= SYMBOL_STATE && s->least <= s->greatest;
        return (value_ref){.ref = (uint16_t)(e->base[s->kind] + s->index),
                           .value_range = {ranged, s->least, s->greatest},
                           .pace = s->kind == SYMBOL_SENSOR ? pace_of_sensor(e, s->index) : NULL};
    }
    value_ref *known = &e->of_symbol[s->place];
    if (known->level == UINT32_MAX) {
        const uint16_t target = known->ref, within = e->owner;
        e->owner = target;
        *known = s->kind == SYMBOL_SIGNAL ? emit_signal(e, s, target) : emit_bands(e, s, target);
        e->owner = within;
    }
    return *known;
}
