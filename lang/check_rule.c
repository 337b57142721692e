/* Rules: what fires them, what they do, and who else wants the same actuator. */
#include "check.h"

#include "engine/ops.h"

#include <math.h>
#include <string.h>

static void check_trigger(tree *t, const rule *r)
{
    check_node(t, r->trigger);
    const type_kind wanted = r->repeats ? TYPE_TRUTH : TYPE_EVENT;
    if (check_is_unknown(r->trigger) || r->trigger->type.kind == wanted) {
        return;
    }
    report_error(t->report, r->trigger->at,
                 r->repeats ? "for instance: while tide is low" : "for instance: on tide becomes low",
                 r->repeats ? "'while' needs a condition, but this is %s" : "'on' needs an event, but this is %s",
                 check_describe(t, r->trigger));
}

static void check_duration(tree *t, node *n, const char *what, double low, bool warns)
{
    if (!n || !check_fixed(t, n, unit_seconds, false, what) || !check_within(t, n, unit_seconds, low, 1e8, what)) {
        return;
    }
    if (warns && check_least_of(n, unit_seconds) * 1e6 < 2.0 * t->tick_us) {
        report_warning(t->report, n->at, "times are rounded up to whole ticks", "%s is shorter than two ticks", what);
    }
}

static void check_travel(tree *t, const action *a)
{
    const symbol *s = a->actuator;
    double value;
    if (a->how == DRIVE_TO && !s->is_switch && node_constant(a->value, unit_percent, &value) &&
        (value < s->least || value > s->greatest)) {
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

static void check_param_set(tree *t, action *a, symbol *s)
{
    double value;
    if (a->how != DRIVE_TO || a->duration) {
        report_error(t->report, a->at, "for instance: shallow 4 cm",
                     "'%s' is a parameter: it takes a value, and keeps it", s->name);
        return;
    }
    s->used = true;
    a->kind = ACTION_PARAM;
    a->param = s;
    check_node(t, a->value);
    if (!check_need_number(t, a->value)) {
        return;
    }
    check_adopt_bare(a->value, s->type.unit);
    if (!unit_same_kind(a->value->type.unit, s->type.unit)) {
        report_error(t->report, a->value->at, NULL, "'%s' is in %s, but this is %s", s->name,
                     unit_describe(&t->units, s->type.unit), check_describe(t, a->value));
    } else if (node_constant(a->value, s->type.unit, &value) && !(value >= s->least && value <= s->greatest)) {
        report_error(t->report, a->value->at, "widen its range or ask for less", "'%s' can be from %g to %g %s",
                     s->name, s->least, s->greatest, s->type.unit.text);
    }
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
    if (s->kind == SYMBOL_PARAM) {
        check_param_set(t, a, s);
        return;
    }
    if (s->kind != SYMBOL_ACTUATOR) {
        report_error(t->report, a->at, "actuators can be driven, and parameters changed",
                     "'%s' is no actuator and no parameter", s->name);
        return;
    }
    a->actuator = s;
    s->used = true;
    if (a->how != DRIVE_TO && s->is_switch != (a->how == DRIVE_TOGGLE)) {
        report_error(t->report, a->at, s->is_switch ? "for instance: toggle lamp" : "for instance: pump 10 % more",
                     s->is_switch ? "'%s' is on or off: it can be toggled"
                                  : "'%s' is driven in percent: it can do so much more or less",
                     s->name);
        return;
    }
    if (a->how != DRIVE_TOGGLE && check_drive_value(t, s, a->value, false)) {
        check_travel(t, a);
    }
    check_duration(t, a->duration, "the action's time", 1e-6, true);
    double time;
    if (a->duration && s->longest && node_constant(a->duration, unit_seconds, &time) && time > s->longest_s) {
        report_error(t->report, a->duration->at, "shorten it, or allow the actuator more",
                     "'%s' may be driven for %g s at the longest", s->name, s->longest_s);
    }
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

void check_rule(tree *t, rule *r)
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
