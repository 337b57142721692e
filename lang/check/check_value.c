/* Values that stand fast: numbers and parameters, and the ranges that they have to keep to. */
#include "check.h"

#include "image/ops.h"

#include <math.h>
#include <string.h>

const char *check_describe(tree *t, const node *n)
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

bool check_is_unknown(const node *n)
{
    return n->type.kind == TYPE_UNKNOWN;
}

bool check_need_number(tree *t, const node *n)
{
    if (n->type.kind == TYPE_NUMBER) {
        return true;
    }
    if (!check_is_unknown(n)) {
        report_error(t->report, n->at, NULL, "a number is needed here, but this is %s", check_describe(t, n));
    }
    return false;
}

node *check_convert_to(tree *t, node *n, unit to)
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

void check_adopt_bare(node *n, unit to)
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

bool check_is_fixed(tree *t, node *n, unit wanted, bool interval, const char *what)
{
    if (!check_need_number(t, n)) {
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
    check_adopt_bare(n, wanted);
    if (!unit_same_kind(n->type.unit, wanted) || (param && interval && n->type.unit.point)) {
        const bool bare = n->kind == NODE_NUMBER && unit_is_bare(n->type.unit);
        report_error(t->report, n->at, example_in(t, wanted, bare ? n->number : 1.0),
                     "%s must be in %s, but this is %s", what, unit_describe(&t->units, wanted), check_describe(t, n));
        return false;
    }
    return true;
}

bool check_is_fixed_number(tree *t, node *n, unit wanted, const char *what, double *value)
{
    if (!check_is_fixed(t, n, wanted, false, what)) {
        return false;
    }
    if (!node_constant(n, wanted, value)) {
        report_error(t->report, n->at, NULL, "%s must be a number", what);
        return false;
    }
    if (fabs(*value) > GREAT) {
        report_error(t->report, n->at, NULL, "%s is too large", what);
        return false;
    }
    return true;
}

double check_least_of(const node *n, unit wanted)
{
    return n->kind == NODE_NUMBER ? unit_convert(n->number, n->type.unit, wanted)
                                  : unit_convert(n->symbol->least, n->type.unit, wanted);
}

double check_greatest_of(const node *n, unit wanted)
{
    return n->kind == NODE_NUMBER ? unit_convert(n->number, n->type.unit, wanted)
                                  : unit_convert(n->symbol->greatest, n->type.unit, wanted);
}

bool check_reachable(tree *t, const node *n, const char *what)
{
    const double ticks = check_greatest_of(n, unit_seconds) / (t->tick_us / 1e6);
    if (ticks > CHECK_TICKS_MOST) {
        report_error(t->report, n->at,
                     arena_print(t->arena, "take a tick of at least %g ms, or a shorter time",
                                 check_greatest_of(n, unit_seconds) * 1e3 / CHECK_TICKS_MOST),
                     "%s is %.5g million ticks, and beyond %g million its steps are too small to be added", what,
                     ticks / 1e6, CHECK_TICKS_MOST / 1e6);
    }
    return ticks <= CHECK_TICKS_MOST;
}

/* "be above 0 and at most 1e+06 s" */
static const char *limits_told(const tree *t, number_limits may, unit wanted)
{
    const char *gap = *wanted.text ? " " : "", *u = wanted.text;
    if (may.high >= GREAT && may.low <= -GREAT) {
        return arena_print(t->arena, "lie within %g..%g%s%s", may.low, may.high, gap, u);
    }
    if (may.high >= GREAT) {
        return may.above ? arena_print(t->arena, "be above %g%s%s", may.low, gap, u) : "not be negative";
    }
    return may.above ? arena_print(t->arena, "be above %g and at most %g%s%s", may.low, may.high, gap, u)
                     : arena_print(t->arena, "be from %g to %g%s%s", may.low, may.high, gap, u);
}

bool check_within(tree *t, const node *n, unit wanted, number_limits may, const char *what)
{
    const double least = check_least_of(n, wanted), greatest = check_greatest_of(n, wanted);
    const bool below = may.above ? !(least > may.low) : !(least >= may.low), beyond = !(greatest <= may.high);
    const bool none = may.not_zero && least <= 0.0 && greatest >= 0.0;
    if (!below && !beyond && !none) {
        return true;
    }
    report_error(t->report, n->at, NULL, "%s must %s, but %s %g", what,
                 below                         ? limits_told(t, may, wanted)
                 : beyond && may.high >= GREAT ? arena_print(t->arena, "be at most %g", may.high)
                 : beyond                      ? limits_told(t, may, wanted)
                                               : "not be 0",
                 n->kind == NODE_NUMBER ? "this is" : "this parameter can be",
                 below    ? least
                 : beyond ? greatest
                          : 0.0);
    return false;
}

const char *check_drive_unit(const symbol *actuator)
{
    return unit_same_kind(actuator->type.unit, unit_percent) ? "percent" : actuator->type.unit.text;
}
