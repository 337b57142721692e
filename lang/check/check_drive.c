/* Values for actuators, and continuous drives: an actuator that follows an expression. */
#include "check.h"

/* The number of a value written for an actuator: one of its names, or a number. */
bool check_drive_value(tree *t, const symbol *actuator, node *n, bool fixed)
{
    uint32_t part;
    const unit u = actuator->type.unit;
    if (actuator->type.kind != TYPE_NAMED) {
        if (fixed) {
            return check_fixed(t, n, u, false, "the actuator's value");
        }
        check_node(t, n);
        if (!check_need_number(t, n)) {
            return false;
        }
        if (!unit_same_kind(n->type.unit, u) || n->type.unit.point != u.point) {
            report_error(t->report, n->at,
                         n->kind == NODE_NUMBER ? arena_print(t->arena, "write '%g %s'", n->number, u.text) : NULL,
                         "'%s' is driven in %s, but this is %s", actuator->name, check_drive_unit(actuator),
                         check_describe(t, n));
            return false;
        }
        return true;
    }
    if (n->kind == NODE_NAME && symbol_part(actuator, n->text, &part)) {
        *n = (node){.kind = NODE_NUMBER, .at = n->at, .number = part, .type = {TYPE_NUMBER, unit_none, NULL}};
        return true;
    }
    if (actuator->is_switch) {
        report_error(t->report, n->at, NULL, "'%s' is a switch: it can be 'on' or 'off'", actuator->name);
    } else {
        report_error(t->report, n->at, symbol_choose(t, actuator, n->kind == NODE_NAME ? n->text : ""),
                     "'%s' has no such name", actuator->name);
    }
    return false;
}

void check_drive(tree *t, follow *f)
{
    symbol *s = tree_find(t, f->name);
    if (!s) {
        tree_unknown(t, f->at, f->name);
        return;
    }
    if (s->kind != SYMBOL_ACTUATOR) {
        report_error(t->report, f->at, "only actuators can be driven", "'%s' is no actuator", s->name);
        return;
    }
    for (const follow *other = t->follow; other < f; other++) {
        if (other->actuator == s) {
            report_error(t->report, f->at, "put the two together, for instance with min or max",
                         "line %u drives '%s' already", report_line(t->report, other->at.start), s->name);
            return;
        }
    }
    f->actuator = s;
    check_node(t, f->value);
    const node *n = f->value;
    if (check_is_unknown(n)) {
        return;
    }
    if (s->type.kind == TYPE_NAMED && !s->is_switch) {
        report_error(t->report, f->at, "use rules: on tide goes low", "'%s' has names, and cannot follow a value",
                     s->name);
        return;
    }
    const bool fits = s->is_switch ? n->type.kind == TYPE_TRUTH
                                   : n->type.kind == TYPE_NUMBER && unit_same_kind(n->type.unit, s->type.unit) &&
                                         n->type.unit.point == s->type.unit.point;
    if (!fits) {
        report_error(t->report, n->at,
                     n->kind == NODE_NAME && n->symbol && n->symbol->is_switch && s->is_switch
                         ? arena_print(t->arena, "write: drive %s = %s is on", s->name, n->symbol->name)
                     : s->is_switch
                         ? "for instance: drive lamp = tide is low"
                         : arena_print(t->arena, "give it a gain, for instance * 20 %s/cm", s->type.unit.text),
                     s->is_switch ? "'%s' is on or off and follows a condition, but this is %s%s"
                                  : "'%s' is driven in %s, but this is %s",
                     s->name, s->is_switch ? check_describe(t, n) : check_drive_unit(s),
                     s->is_switch ? "" : check_describe(t, n));
    }
}
