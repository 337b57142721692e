/* Names, units, cycles and ranges. An error makes a type unknown, and an unknown type is never a second
 * error. */
#include "tree.h"

#include "engine/ops.h"

#include <math.h>
#include <string.h>

#define DEPENDENCY_MAX 200u
#define GREATEST       1e30

static void check_node(tree *t, node *n);
static void check_symbol(tree *t, symbol *s);

static const char *describe(tree *t, const node *n)
{
    switch (n->type.kind) {
    case TYPE_NUMBER:
        return unit_describe(&t->units, n->type.unit);
    case TYPE_TRUTH:
        return "a condition";
    case TYPE_EVENT:
        return "an event";
    case TYPE_NAMED:
        return n->type.symbol->is_switch ? "a switch" : "the name of a band";
    case TYPE_UNKNOWN:
        break;
    }
    return "?";
}

static bool unknown(const node *n)
{
    return n->type.kind == TYPE_UNKNOWN;
}

static bool need_number(tree *t, const node *n)
{
    if (n->type.kind == TYPE_NUMBER) {
        return true;
    }
    if (!unknown(n)) {
        report_error(t->report, n->at, NULL, "a number is needed here, but this is %s", describe(t, n));
    }
    return false;
}

/* ---- constants and parameters ---------------------------------------------------------------------- */

static node *convert(tree *t, node *n, unit to)
{
    if (n->kind == NODE_NUMBER) {
        n->number = unit_convert(n->number, n->type.unit, to);
        n->type.unit = to;
        return n;
    }
    node *c = tree_node(t, NODE_CONVERT, n->at);
    c->a = n;
    c->type = (type){TYPE_NUMBER, to, NULL};
    return c;
}

static void adopt_bare(node *n, unit to)
{
    if (n->kind == NODE_NUMBER && unit_is_bare(n->type.unit) && (unit_same_kind(to, unit_counts) || n->number == 0.0)) {
        n->type.unit = to;
    }
}

static const char *example_in(tree *t, unit wanted, double number)
{
    const char *text = strcmp(wanted.text, "s") == 0 ? "ms" : wanted.text;
    return *text ? arena_print(t->arena, "for instance: %g %s", number, text) : NULL;
}

/* A value that must stand fast, or be a parameter, and go together with `wanted`. `interval`: of two
 * points on a temperature scale only the distance counts. */
static bool check_fixed(tree *t, node *n, unit wanted, bool interval, const char *what)
{
    if (!n) {
        return false;
    }
    check_node(t, n);
    if (!need_number(t, n)) {
        return false;
    }
    const bool param = n->kind == NODE_NAME && n->symbol->kind == SYMBOL_PARAM;
    if (n->kind != NODE_NUMBER && !param) {
        report_error(t->report, n->at, "declare a param and use its name", "%s must be a number or a parameter", what);
        return false;
    }
    if (interval) {
        wanted = unit_difference(wanted);
        n->type.unit = param ? n->type.unit : unit_difference(n->type.unit);
    }
    adopt_bare(n, wanted);
    if (!unit_same_kind(n->type.unit, wanted) || (param && interval && n->type.unit.point)) {
        const bool bare = n->kind == NODE_NUMBER && unit_is_bare(n->type.unit);
        report_error(t->report, n->at, example_in(t, wanted, bare ? n->number : 1.0),
                     "%s must be in %s, but this is %s", what, unit_describe(&t->units, wanted), describe(t, n));
        return false;
    }
    return true;
}

static bool fixed_number(tree *t, node *n, unit wanted, const char *what, double *value)
{
    if (!check_fixed(t, n, wanted, false, what)) {
        return false;
    }
    if (!node_constant(n, wanted, value)) {
        report_error(t->report, n->at, NULL, "%s must be a number", what);
        return false;
    }
    if (fabs(*value) > GREATEST) {
        report_error(t->report, n->at, NULL, "%s is too large", what);
        return false;
    }
    return true;
}

/* The least a fixed value can become, in `wanted`. */
static double least_of(const node *n, unit wanted)
{
    return n->kind == NODE_NUMBER ? unit_convert(n->number, n->type.unit, wanted)
                                  : unit_convert(n->symbol->least, n->type.unit, wanted);
}

static double greatest_of(const node *n, unit wanted)
{
    return n->kind == NODE_NUMBER ? unit_convert(n->number, n->type.unit, wanted)
                                  : unit_convert(n->symbol->greatest, n->type.unit, wanted);
}

static bool check_within(tree *t, const node *n, unit wanted, double low, double high, const char *what)
{
    const double least = least_of(n, wanted), greatest = greatest_of(n, wanted);
    if (least >= low && greatest <= high) {
        return true;
    }
    const char *is = n->kind == NODE_NUMBER ? "this is" : "this parameter can be";
    const double out = least < low ? least : greatest;
    if (high >= GREATEST && low >= 0.0 && low < 1e-20) {
        report_error(t->report, n->at, NULL, "%s must %s, but %s %g", what,
                     low > 0.0 ? "be above 0" : "not be negative", is, out);
    } else {
        report_error(t->report, n->at, NULL, "%s must be from %g to %g%s%s, but %s %g", what, low, high,
                     *wanted.text ? " " : "", wanted.text, is, out);
    }
    return false;
}

/* ---- expressions --------------------------------------------------------------------------------- */

static void check_name(tree *t, node *n)
{
    symbol *s = tree_find(t, n->text);
    if (!s) {
        tree_unknown(t, n->at, n->text);
        return;
    }
    n->symbol = s;
    s->used = true;
    check_symbol(t, s);
    n->type = s->type;
}

static bool bad_pair(tree *t, const node *n)
{
    report_error(t->report, n->at, "both sides must be of one kind", "'%s' has %s on its left and %s on its right",
                 n->text, describe(t, n->a), describe(t, n->b));
    return false;
}

/* Brings both sides to one unit, that of the side that is no constant (the left one when both are not). */
static bool harmonise(tree *t, node *n)
{
    adopt_bare(n->a, n->b->type.unit);
    adopt_bare(n->b, n->a->type.unit);
    unit a = n->a->type.unit, b = n->b->type.unit;
    if (!unit_same_kind(a, b)) {
        return bad_pair(t, n);
    }
    const bool left_gives = !(n->a->kind == NODE_NUMBER && n->b->kind != NODE_NUMBER);
    const double scale = left_gives ? a.scale : b.scale;
    const char *text = left_gives ? a.text : b.text;
    unit *other = left_gives ? &b : &a;
    if (a.scale != b.scale || (a.point && b.point && a.offset != b.offset)) {
        unit to = *other;
        to.scale = scale;
        to.text = text;
        if (a.point && b.point) {
            to.offset = left_gives ? a.offset : b.offset;
        }
        if (left_gives) {
            n->b = convert(t, n->b, to);
        } else {
            n->a = convert(t, n->a, to);
        }
    }
    return true;
}

static void check_sum(tree *t, node *n)
{
    const bool minus = n->op == RP_OP_SUBTRACT;
    if (!harmonise(t, n)) {
        return;
    }
    const unit a = n->a->type.unit, b = n->b->type.unit;
    if ((!minus && a.point && b.point) || (minus && !a.point && b.point)) {
        report_error(t->report, n->at, "write an interval in K",
                     minus ? "a temperature cannot be taken from an interval"
                           : "two temperatures cannot be added; one side must be an interval");
        return;
    }
    n->type = (type){TYPE_NUMBER, a.point || !b.point ? a : b, NULL};
    if (minus && a.point && b.point) {
        n->type.unit = unit_difference(a);
    }
}

/* Two numbers joined are a number. */
static void fold(tree *t, node *n)
{
    if (n->a->kind != NODE_NUMBER || n->b->kind != NODE_NUMBER || n->type.kind != TYPE_NUMBER) {
        return;
    }
    const double a = n->a->number, b = n->b->number;
    double r = 0.0;
    switch (n->op) {
    case RP_OP_ADD:
        r = a + b;
        break;
    case RP_OP_SUBTRACT:
        r = a - b;
        break;
    case RP_OP_MULTIPLY:
        r = a * b;
        break;
    case RP_OP_DIVIDE:
        r = a / b;
        break;
    case RP_OP_LEAST:
        r = fmin(a, b);
        break;
    default:
        r = fmax(a, b);
        break;
    }
    if (!isfinite(r)) {
        report_error(t->report, n->at, NULL, "this gives no number");
        r = 0.0;
    }
    n->kind = NODE_NUMBER;
    n->number = r;
}

/* Per "500 ms" means per so many seconds: speeds come out in mm/s rather than in mm/ms. */
static void prefer_seconds(tree *t, node *n)
{
    if (n->kind == NODE_NUMBER && unit_same_kind(n->type.unit, unit_seconds)) {
        convert(t, n, unit_seconds);
    }
}

static void check_product(tree *t, node *n)
{
    prefer_seconds(t, n->a);
    prefer_seconds(t, n->b);
    const unit a = n->a->type.unit, b = n->b->type.unit;
    if (a.point || b.point) {
        report_error(t->report, n->at, "take the difference to another temperature first",
                     "a temperature on its scale cannot be multiplied or divided");
        return;
    }
    n->type = (type){TYPE_NUMBER, unit_product(&t->units, a, b, n->op == RP_OP_MULTIPLY ? 1 : -1), NULL};
    if (unit_is_bare(n->type.unit) && n->type.unit.scale != 1.0) {
        node *ratio = tree_node(t, NODE_JOIN, n->at);
        *ratio = *n;
        fold(t, ratio);
        *n = (node){.kind = NODE_CONVERT, .at = n->at, .a = ratio, .type = {TYPE_NUMBER, unit_none, NULL}};
        if (ratio->kind == NODE_NUMBER) {
            *n = *convert(t, ratio, unit_none);
        }
    }
}

static void check_logic(tree *t, node *n)
{
    const type_kind a = n->a->type.kind, b = n->b->type.kind;
    for (int side = 0; side < 2; side++) {
        const node *x = side ? n->b : n->a;
        if (x->type.kind != TYPE_TRUTH && x->type.kind != TYPE_EVENT) {
            report_error(t->report, x->at,
                         x->type.kind == TYPE_NAMED ? "say what it is, for instance: gate is on" : NULL,
                         "'%s' joins conditions, but this is %s", n->text, describe(t, x));
            return;
        }
    }
    const bool both = n->op == RP_OP_BOTH;
    if (both ? a == TYPE_EVENT && b == TYPE_EVENT : a != b) {
        report_error(t->report, n->at, both ? "make the second one a condition: 'is' rather than 'becomes'" : NULL,
                     both ? "two events hardly ever come in one tick" : "'or' needs two conditions or two events");
        return;
    }
    n->type.kind = a == TYPE_EVENT || b == TYPE_EVENT ? TYPE_EVENT : TYPE_TRUTH;
}

static void check_join(tree *t, node *n)
{
    check_node(t, n->a);
    check_node(t, n->b);
    if (unknown(n->a) || unknown(n->b)) {
        return;
    }
    if (n->op == RP_OP_BOTH || n->op == RP_OP_ANY) {
        check_logic(t, n);
        return;
    }
    if (!need_number(t, n->a) || !need_number(t, n->b)) {
        return;
    }
    if (n->op == RP_OP_ADD || n->op == RP_OP_SUBTRACT) {
        check_sum(t, n);
    } else if (n->op == RP_OP_MULTIPLY || n->op == RP_OP_DIVIDE) {
        check_product(t, n);
    } else if (harmonise(t, n)) {
        if (n->a->type.unit.point != n->b->type.unit.point) {
            bad_pair(t, n);
            return;
        }
        n->type = n->a->type;
    }
    if (n->kind == NODE_JOIN) {
        fold(t, n);
    }
}

/* A limit that is computed is compared by the difference: "a above b" is "a - b above 0". */
static void check_compare(tree *t, node *n)
{
    check_node(t, n->a);
    check_node(t, n->b);
    if (!need_number(t, n->a) || !need_number(t, n->b)) {
        return;
    }
    const unit u = n->a->type.unit;
    const bool fixed = n->b->kind == NODE_NUMBER || (n->b->kind == NODE_NAME && n->b->symbol->kind == SYMBOL_PARAM);
    adopt_bare(n->b, u);
    if (!unit_same_kind(u, n->b->type.unit) || u.point != n->b->type.unit.point) {
        bad_pair(t, n);
        return;
    }
    if (n->c && (!check_fixed(t, n->c, u, true, "the margin") ||
                 !check_within(t, n->c, unit_difference(u), 0.0, GREATEST, "the margin"))) {
        return;
    }
    n->type.kind = TYPE_TRUTH;
    if (!fixed) {
        node *difference = tree_node(t, NODE_JOIN, n->at);
        difference->op = RP_OP_SUBTRACT;
        difference->text = "-";
        difference->a = n->a;
        difference->b = n->b;
        check_sum(t, difference);
        n->a = difference;
        n->b = tree_node(t, NODE_NUMBER, n->at);
        n->b->type = difference->type;
    }
}

static const char *part_name(void *self, uint32_t i)
{
    const symbol *s = self;
    return s->name_of[i].name;
}

static void check_is(tree *t, node *n)
{
    check_node(t, n->a);
    if (unknown(n->a)) {
        return;
    }
    if (n->a->type.kind != TYPE_NAMED) {
        report_error(t->report, n->a->at, "compare a quantity with 'below' or 'above'",
                     "'is' asks for the name of a band or of a switch's state, but this is %s", describe(t, n->a));
        return;
    }
    symbol *s = tree_find(t, n->a->type.symbol->name);
    uint32_t number;
    if (!symbol_part(s, n->text, &number)) {
        report_error(t->report, n->text_at, report_suggest(t->report, n->text, part_name, s, s->names),
                     "'%s' is never '%s'", s->name, n->text);
        return;
    }
    n->number = number;
    n->type.kind = TYPE_TRUTH;
}

static bool check_points(tree *t, node *n, const setting_node *s)
{
    double before = 0.0, direction = 0.0;
    if (s->points < 2) {
        report_error(t->report, n->at, arena_print(t->arena, "write '%s'", n->stage->form),
                     "'%s' needs at least two points", n->stage->word);
        return false;
    }
    for (uint32_t i = 0; i < s->points; i++) {
        double in, out;
        if (!fixed_number(t, s->point[i].in, n->a->type.unit, "a table's input", &in) ||
            !fixed_number(t, s->point[i].out, n->type.unit, "a table's output", &out)) {
            return false;
        }
        if (i > 0 && (in == before || (direction != 0.0 && (in - before) * direction < 0.0))) {
            report_error(t->report, s->point[i].in->at, "put the points in rising or falling order",
                         in == before ? "two points at the input %g" : "the inputs of a table must not turn back at %g",
                         in);
            return false;
        }
        direction = i > 0 ? in - before : 0.0;
        before = in;
    }
    return true;
}

unit lang_setting_unit(const tree *t, const node *n, const stage_setting *is, bool *interval)
{
    const unit in = n->a->type.unit, out = n->type.unit;
    const uint32_t index = (uint32_t)(is - n->stage->setting);
    unit u = unit_none;
    *interval = false;
    if (strcmp(is->unit, UNIT_IN_INTERVAL) == 0) {
        *interval = true;
        return unit_difference(in);
    }
    if (strcmp(is->unit, UNIT_IN) == 0) {
        return in;
    }
    if (strcmp(is->unit, UNIT_OUT) == 0 || (n->stage->result == RESULT_OF_SETTING && index == n->stage->result_of)) {
        return out;
    }
    if (strcmp(is->unit, UNIT_OUT_PER_IN) == 0) {
        return unit_product(&t->units, unit_difference(out), unit_difference(in), -1);
    }
    unit_find_text(&t->units, is->unit, &u);
    return u;
}

static bool check_number_setting(tree *t, node *n, const stage_setting *is, setting_node *s, const char *what)
{
    bool interval;
    const unit wanted = lang_setting_unit(t, n, is, &interval);
    if (!check_fixed(t, s->value, wanted, interval, what)) {
        return false;
    }
    if (s->value->kind == NODE_NAME && !rp_op_is_live(n->stage->op, is->offset)) {
        report_error(t->report, s->value->at, "write a number", "%s cannot be a parameter", what);
        return false;
    }
    const double number = s->value->number;
    if (is->shape == SETTING_ODD && fmod(number, 2.0) != 1.0) {
        report_error(t->report, s->value->at, arena_print(t->arena, "take %g", 2.0 * floor(number / 2.0) + 1.0),
                     "%s must be odd", what);
        return false;
    }
    if (is->shape == SETTING_COUNT && number != floor(number)) {
        report_error(t->report, s->value->at, NULL, "%s must be a whole number", what);
        return false;
    }
    return check_within(t, s->value, wanted, is->low, is->high, what);
}

/* A further input is brought to the unit that is wanted. */
static bool check_signal_setting(tree *t, node *n, const stage_setting *is, setting_node *s, const char *what)
{
    bool interval;
    const unit wanted = lang_setting_unit(t, n, is, &interval);
    check_node(t, s->value);
    if (!need_number(t, s->value)) {
        return false;
    }
    if (s->value->kind == NODE_NUMBER || !unit_same_kind(wanted, s->value->type.unit)) {
        report_error(t->report, s->value->at, NULL, "%s must be a signal in %s, but this is %s", what,
                     unit_describe(&t->units, wanted), describe(t, s->value));
        return false;
    }
    if (s->value->type.unit.scale != wanted.scale) {
        s->value = convert(t, s->value, wanted);
    }
    return true;
}

static bool check_setting(tree *t, node *n, uint32_t index)
{
    const stage_setting *is = &n->stage->setting[index];
    setting_node *s = &n->setting[index];
    const char *what = arena_print(t->arena, "the %s of '%s'", is->name, n->stage->word);
    if (!s->given) {
        return true;
    }
    switch (is->shape) {
    case SETTING_POINTS:
        return check_points(t, n, s);
    case SETTING_SIGNAL:
        return check_signal_setting(t, n, is, s, what);
    case SETTING_NUMBER:
    case SETTING_COUNT:
    case SETTING_ODD:
        return check_number_setting(t, n, is, s, what);
    default:
        return true;
    }
}

/* The output's unit as a setting is written in it; that has to be of the kind that the setting's row names. */
static bool unit_of_setting(tree *t, node *n, unit *u)
{
    const stage_setting *is = &n->stage->setting[n->stage->result_of];
    const setting_node *s = &n->setting[n->stage->result_of];
    node *from = is->shape == SETTING_POINTS ? s->point[0].out : s->value;
    unit wanted;
    check_node(t, from);
    if (!need_number(t, from)) {
        return false;
    }
    *u = from->type.unit;
    if (strcmp(is->unit, UNIT_ANY) != 0 && unit_find_text(&t->units, is->unit, &wanted) &&
        !unit_same_kind(*u, wanted)) {
        return check_fixed(t, from, wanted, false, arena_print(t->arena, "the %s of '%s'", is->name, n->stage->word));
    }
    return true;
}

static bool find_result(tree *t, node *n)
{
    unit u = n->a->type.unit;
    switch (n->stage->result) {
    case RESULT_SAME:
        break;
    case RESULT_OF_SETTING:
        if (!unit_of_setting(t, n, &u)) {
            return false;
        }
        break;
    case RESULT_FIXED:
        unit_find_text(&t->units, n->stage->result_unit, &u);
        break;
    case RESULT_PER_SECOND:
        u = unit_product(&t->units, unit_difference(u), unit_seconds, -1);
        break;
    case RESULT_TIMES_SECOND:
        u = unit_product(&t->units, unit_difference(u), unit_seconds, 1);
        break;
    }
    n->type = (type){TYPE_NUMBER, u, NULL};
    return true;
}

static bool check_stage_input(tree *t, const node *n)
{
    unit wanted;
    if (!need_number(t, n->a)) {
        return false;
    }
    if (n->a->kind == NODE_NUMBER) {
        report_error(t->report, n->a->at, NULL, "a stage needs something that changes, but this is a number");
        return false;
    }
    if (n->stage->input && unit_find_text(&t->units, n->stage->input, &wanted) &&
        !unit_same_kind(wanted, n->a->type.unit)) {
        report_error(t->report, n->at, NULL, "'%s' needs an input in %s, but this is %s", n->stage->word,
                     unit_describe(&t->units, wanted), describe(t, n->a));
        return false;
    }
    return true;
}

static void check_stage(tree *t, node *n)
{
    check_node(t, n->a);
    bool sound = check_stage_input(t, n) && find_result(t, n);
    for (uint32_t i = 0; sound && i < STAGE_SETTINGS_MAX && n->stage->setting[i].name; i++) {
        sound = check_setting(t, n, i);
    }
    if (!sound) {
        n->type.kind = TYPE_UNKNOWN;
    }
}

static void check_convert(tree *t, node *n)
{
    const type to = n->type;
    n->type.kind = TYPE_UNKNOWN;
    check_node(t, n->a);
    if (!need_number(t, n->a)) {
        return;
    }
    if (!unit_same_kind(to.unit, n->a->type.unit) || to.unit.point != n->a->type.unit.point) {
        report_error(t->report, n->at, NULL, "%s cannot be written in %s", describe(t, n->a), to.unit.text);
        return;
    }
    n->type = to;
    if (n->a->kind == NODE_NUMBER) {
        *n = *convert(t, n->a, to.unit);
    }
}

static void check_node(tree *t, node *n)
{
    switch (n->kind) {
    case NODE_NUMBER:
        break;
    case NODE_NAME:
        check_name(t, n);
        break;
    case NODE_JOIN:
        check_join(t, n);
        break;
    case NODE_COMPARE:
        check_compare(t, n);
        break;
    case NODE_IS:
        check_is(t, n);
        break;
    case NODE_EDGE:
        check_node(t, n->a);
        n->type.kind = unknown(n->a) ? TYPE_UNKNOWN : TYPE_EVENT;
        break;
    case NODE_NOT:
        check_node(t, n->a);
        if (!unknown(n->a) && n->a->type.kind != TYPE_TRUTH) {
            report_error(t->report, n->at, NULL, "'not' needs a condition, but this is %s", describe(t, n->a));
            break;
        }
        n->type.kind = n->a->type.kind;
        break;
    case NODE_STAGE:
        check_stage(t, n);
        break;
    case NODE_CONVERT:
        check_convert(t, n);
        break;
    case NODE_START:
        n->type.kind = TYPE_EVENT;
        break;
    }
}

/* ---- declarations -------------------------------------------------------------------------------- */

static bool check_range(tree *t, symbol *s, unit u, const char *what)
{
    if (!fixed_number(t, s->low, u, what, &s->least) || !fixed_number(t, s->high, u, what, &s->greatest)) {
        return false;
    }
    if (!(s->least < s->greatest)) {
        report_error(t->report, (rp_span){s->low->at.start, s->high->at.end}, "write the lesser end first",
                     "the range of '%s' is empty", s->name);
        return false;
    }
    return true;
}

/* A number behind a unit that the line has stated already. */
static void adopt_declared(node *n, unit u)
{
    if (n->kind == NODE_NUMBER && unit_is_bare(n->type.unit)) {
        n->type.unit = u;
    }
}

static void check_option(tree *t, node *n, unit wanted, double low, const char *what, double *value)
{
    if (n && fixed_number(t, n, wanted, what, value) && *value < low) {
        report_error(t->report, n->at, NULL, "%s must be at least %g %s", what, low, wanted.text);
    }
}

static void check_sensor_options(tree *t, symbol *s)
{
    const unit per_second = unit_product(&t->units, unit_difference(s->type.unit), unit_seconds, -1);
    const double tick = t->tick_us / 1e6;
    check_option(t, s->stuck, unit_seconds, tick, "the time after which a sensor counts as stuck", &s->stuck_s);
    check_option(t, s->jump, per_second, 1e-6, "the fastest change that is possible", &s->jump_per_s);
    check_option(t, s->every, unit_seconds, tick, "the time from reading to reading", &s->every_s);
    check_option(t, s->fault, unit_seconds, tick, "the time after which bad readings are a fault", &s->fault_s);
}

static void check_sensor(tree *t, symbol *s)
{
    if (s->type.kind == TYPE_NAMED) {
        check_sensor_options(t, s);
        return;
    }
    if (!s->low || !s->high) {
        return;
    }
    adopt_declared(s->low, s->type.unit);
    adopt_declared(s->high, s->type.unit);
    if (!check_range(t, s, s->type.unit, "the sensor's range")) {
        return;
    }
    check_sensor_options(t, s);
    if (s->least != round(s->least) || s->greatest != round(s->greatest) || fabs(s->least) > 2147483000.0 ||
        fabs(s->greatest) > 2147483000.0) {
        report_error(t->report, s->low->at, "take a finer unit, for instance mV instead of V",
                     "raw readings are whole numbers of 32 bits");
    }
}

static void check_param(tree *t, symbol *s)
{
    if (!s->value || !s->high) {
        return;
    }
    check_node(t, s->value);
    if (unknown(s->value)) {
        return;
    }
    if (s->value->kind != NODE_NUMBER) {
        report_error(t->report, s->value->at, NULL, "a parameter begins with a number");
        return;
    }
    const unit u = s->value->type.unit;
    s->initial = s->value->number;
    if (unit_is_bare(s->low->type.unit) && s->low->kind == NODE_NUMBER) {
        s->low->type.unit = s->high->type.unit;
    }
    if (!check_range(t, s, u, "the parameter's range")) {
        return;
    }
    if (!(s->initial >= s->least && s->initial <= s->greatest)) {
        report_error(t->report, s->value->at, "widen the range or change the value",
                     "%g %s is outside the range %g..%g %s", s->initial, u.text, s->least, s->greatest, u.text);
    }
    s->type = (type){TYPE_NUMBER, u, NULL};
}

/* The number of a value written for an actuator: "on" of a switch, or a number. */
static bool drive_value(tree *t, const symbol *actuator, node *n, bool fixed)
{
    uint32_t part;
    if (!actuator->is_switch) {
        if (fixed) {
            return check_fixed(t, n, unit_percent, false, "the actuator's value");
        }
        check_node(t, n);
        if (!need_number(t, n)) {
            return false;
        }
        if (!unit_same_kind(n->type.unit, unit_percent)) {
            report_error(t->report, n->at,
                         n->kind == NODE_NUMBER ? arena_print(t->arena, "write '%g %%'", n->number) : NULL,
                         "'%s' is driven in percent, but this is %s", actuator->name, describe(t, n));
            return false;
        }
        return true;
    }
    if (n->kind == NODE_NAME && symbol_part(actuator, n->text, &part)) {
        *n = (node){.kind = NODE_NUMBER, .at = n->at, .number = part, .type = {TYPE_NUMBER, unit_none, NULL}};
        return true;
    }
    report_error(t->report, n->at, NULL, "'%s' is a switch: it can be 'on' or 'off'", actuator->name);
    return false;
}

static void check_actuator(tree *t, symbol *s)
{
    if (!s->value || (!s->is_switch && !s->high)) {
        return;
    }
    if (s->is_switch) {
        drive_value(t, s, s->value, true);
        s->initial = s->value->number;
        return;
    }
    adopt_declared(s->low, unit_percent);
    adopt_declared(s->high, unit_percent);
    adopt_declared(s->value, unit_percent);
    if (!check_range(t, s, unit_percent, "the actuator's travel") ||
        !fixed_number(t, s->value, unit_percent, "the rest value", &s->initial)) {
        return;
    }
    if (s->least < -100.0 || s->greatest > 100.0) {
        report_error(t->report, s->low->at, NULL, "an actuator's travel lies within -100..100 %%");
    }
    if (s->initial < s->least || s->initial > s->greatest) {
        report_error(t->report, s->value->at, "rest within the travel", "'%s' rests outside its travel %g..%g %%",
                     s->name, s->least, s->greatest);
    }
}

static void check_signal(tree *t, symbol *s)
{
    check_node(t, s->value);
    s->type = s->value->type;
    if (s->type.kind == TYPE_EVENT) {
        report_error(t->report, s->value->at, "use it in an 'on' rule",
                     "an event has no value that a signal could hold");
        s->type.kind = TYPE_UNKNOWN;
    } else if (s->type.kind == TYPE_NAMED) {
        report_error(t->report, s->value->at, "use its own name", "'%s' would only be another name for '%s'", s->name,
                     s->type.symbol->name);
        s->type.kind = TYPE_UNKNOWN;
    }
}

static void check_bands(tree *t, symbol *s)
{
    check_node(t, s->value);
    if (!need_number(t, s->value)) {
        s->type.kind = TYPE_UNKNOWN;
        return;
    }
    const unit u = s->value->type.unit;
    lang_order_bands(t, s);
    for (uint32_t i = 0; i + 1 < s->names; i++) {
        if (s->border[i]) {
            check_fixed(t, s->border[i], u, false, "a band's border");
        }
    }
    if (s->margin && check_fixed(t, s->margin, u, true, "the margin")) {
        check_within(t, s->margin, unit_difference(u), 0.0, GREATEST, "the margin");
    }
}

static void check_symbol(tree *t, symbol *s)
{
    static void (*const check_kind[])(tree *, symbol *) = {
        [SYMBOL_PARAM] = check_param,   [SYMBOL_SENSOR] = check_sensor, [SYMBOL_ACTUATOR] = check_actuator,
        [SYMBOL_SIGNAL] = check_signal, [SYMBOL_BANDS] = check_bands,
    };
    const checking here = {s, t->checking, t->checking ? t->checking->depth + 1 : 1};
    if (s->checked) {
        return;
    }
    if (s->kind >= SYMBOL_SIGNAL && !s->value) { /* the parser has said why */
        s->type.kind = TYPE_UNKNOWN;
        return;
    }
    if (s->checking) {
        const char *shown = s->name;
        for (const checking *c = t->checking; c; c = c->symbol == s ? NULL : c->outer) {
            shown = arena_print(t->arena, "%s <- %s", c->symbol->name, shown);
        }
        report_error(t->report, s->at, "one of them must do without the others", "'%s' needs itself: %s", s->name,
                     shown);
        return;
    }
    if (here.depth > DEPENDENCY_MAX) {
        report_error(t->report, s->at, NULL, "signals need one another too deep (limit %u)", DEPENDENCY_MAX);
        s->type.kind = TYPE_UNKNOWN;
        return;
    }
    const uint32_t complaints = t->report->complaints;
    s->checking = true;
    t->checking = &here;
    check_kind[s->kind](t, s);
    t->checking = here.outer;
    if (t->report->complaints != complaints) {
        s->type.kind = TYPE_UNKNOWN;
    }
    s->checking = false;
    s->checked = true;
}

/* ---- rules --------------------------------------------------------------------------------------- */

static void check_trigger(tree *t, const rule *r)
{
    check_node(t, r->trigger);
    const type_kind wanted = r->repeats ? TYPE_TRUTH : TYPE_EVENT;
    if (unknown(r->trigger) || r->trigger->type.kind == wanted) {
        return;
    }
    report_error(t->report, r->trigger->at,
                 r->repeats ? "for instance: while tide is low" : "for instance: on tide becomes low",
                 r->repeats ? "'while' needs a condition, but this is %s" : "'on' needs an event, but this is %s",
                 describe(t, r->trigger));
}

static void check_duration(tree *t, node *n, const char *what, double low, bool warns)
{
    if (!n || !check_fixed(t, n, unit_seconds, false, what) || !check_within(t, n, unit_seconds, low, 1e8, what)) {
        return;
    }
    if (warns && least_of(n, unit_seconds) * 1e6 < 2.0 * t->tick_us) {
        report_warning(t->report, n->at, "times are rounded up to whole ticks", "%s is shorter than two ticks", what);
    }
}

static void check_travel(tree *t, const action *a)
{
    const symbol *s = a->actuator;
    double value;
    if (!s->is_switch && node_constant(a->value, unit_percent, &value) && (value < s->least || value > s->greatest)) {
        report_error(t->report, a->value->at, "widen the travel or ask for less",
                     "%g %% is outside the travel %g..%g %% of '%s'", value, s->least, s->greatest, s->name);
    }
}

static bool learns(const node *n)
{
    const bool own = n->kind == NODE_STAGE &&
                     (n->stage->op == RP_OP_ZERO || n->stage->op == RP_OP_SPAN || n->stage->op == RP_OP_ACCUMULATE);
    return own || (n->kind == NODE_STAGE && learns(n->a));
}

static void check_relearn(tree *t, action *a, const symbol *s)
{
    if (s->kind != SYMBOL_SIGNAL || !s->value || !learns(s->value)) {
        report_error(t->report, a->at, "name the signal whose line has the stage",
                     "'%s' has no 'zero', 'span' or 'accumulate' of its own", s->name);
        return;
    }
    a->signal = s;
}

static void check_action(tree *t, action *a)
{
    if (a->kind == ACTION_MARK) {
        return;
    }
    symbol *s = tree_find(t, a->text);
    if (!s) {
        tree_unknown(t, a->at, a->text);
        return;
    }
    if (a->kind == ACTION_RELEARN) {
        check_relearn(t, a, s);
        return;
    }
    if (s->kind != SYMBOL_ACTUATOR) {
        report_error(t->report, a->at, "only actuators can be driven", "'%s' is no actuator", s->name);
        return;
    }
    a->actuator = s;
    s->used = true;
    if (drive_value(t, s, a->value, false)) {
        check_travel(t, a);
    }
    check_duration(t, a->duration, "the action's time", 1e-6, true);
}

static void check_rivals(tree *t, const rule *r, unsigned before)
{
    const action *a = &r->action[before];
    for (const rule *other = t->rule; other <= r; other++) {
        const unsigned until = other == r ? before : other->actions;
        for (unsigned i = 0; i < until; i++) {
            const action *b = &other->action[i];
            if (b->duration && b->actuator == a->actuator && b->priority == a->priority) {
                report_error(t->report, a->at, "say which goes over the other, for instance: , priority 1",
                             "line %u drives '%s' for a time as well", report_line(t->report, b->at.start), a->text);
                return;
            }
        }
    }
}

static void check_rule(tree *t, rule *r)
{
    if (r->trigger) {
        check_trigger(t, r);
    }
    if (r->actions == 0 && r->trigger) {
        report_error(t->report, r->at, "indent its actions below it", "this rule does nothing");
    }
    for (unsigned i = 0; i < r->actions; i++) {
        check_action(t, &r->action[i]);
        if (r->action[i].duration && r->action[i].actuator) {
            check_rivals(t, r, i);
        }
    }
    check_duration(t, r->holdoff, "the holdoff", 0.0, false);
}

void lang_check(tree *t)
{
    const rp_span start = {0, 0};
    if (t->report->errors == 0 && !t->name) {
        report_error(t->report, start, "begin with 'rig NAME'", "this rig has no name");
    } else if (t->report->errors == 0 && !t->tick_us) {
        report_error(t->report, start, "add a line 'tick 20 ms'", "this rig states no tick");
    }
    for (symbol_kind kind = SYMBOL_PARAM; kind <= SYMBOL_BANDS; kind++) {
        for (unsigned i = 0; i < t->symbols; i++) {
            if (t->symbol[i]->kind == kind) {
                check_symbol(t, t->symbol[i]);
            }
        }
    }
    for (unsigned i = 0; i < t->rules; i++) {
        check_rule(t, &t->rule[i]);
    }
}
