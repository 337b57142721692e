/* Guards: what an actuator is kept from, and that it may rest all the same. */
#include "check.h"

#include "rigpulse/image.h"

static bool find_guarded(tree *t, guard *g)
{
    symbol *s = g->name ? tree_find(t, g->name) : NULL;
    if (!g->name) {
        return true;
    }
    if (!s) {
        tree_unknown(t, g->name_at, g->name);
        return false;
    }
    if (s->kind != SYMBOL_ACTUATOR) {
        report_error(t->report, g->name_at, "only actuators are driven", "'%s' is no actuator", s->name);
        return false;
    }
    s->used = true;
    g->actuator = s;
    return true;
}

/* The least or the greatest that a fixed value can become, in percent. */
static double extreme_of(const node *n, bool least)
{
    const symbol *param = n->kind == NODE_NAME ? n->symbol : NULL;
    const double number = param ? (least ? param->least : param->greatest) : n->number;
    return unit_is_bare(n->type.unit) ? number : unit_convert(number, n->type.unit, unit_percent);
}

static void check_limit(tree *t, const guard *g)
{
    const symbol *s = g->actuator;
    const bool above = g->side == RP_GUARD_ABOVE;
    if (s->is_switch != g->named) {
        report_error(t->report, g->limit->at,
                     s->is_switch ? "for instance: never lamp on while ..."
                                  : "for instance: never pump above 0 while ...",
                     s->is_switch ? "'%s' is on or off" : "'%s' is driven in percent", s->name);
        return;
    }
    if (g->limit->kind == NODE_NUMBER && unit_is_bare(g->limit->type.unit)) {
        g->limit->type.unit = unit_percent; /* as in the actuator's own line */
    }
    if (!s->is_switch && !check_fixed(t, g->limit, unit_percent, false, "a guard's limit")) {
        return;
    }
    const double limit = extreme_of(g->limit, above);
    if (above ? s->initial > limit : s->initial < limit) {
        report_error(t->report, g->limit->at, "rest within what the guard allows, or guard less",
                     s->is_switch ? "'%s' rests at what this guard forbids"
                                  : "'%s' rests at %g %%, which this guard forbids",
                     s->name, s->initial);
    }
}

void check_guard(tree *t, guard *g)
{
    if (!g->condition || !find_guarded(t, g)) {
        return;
    }
    check_node(t, g->condition);
    if (!check_is_unknown(g->condition) && g->condition->type.kind != TYPE_TRUTH) {
        report_error(t->report, g->condition->at, "for instance: never pump above 0 while tide is high",
                     "'while' needs a condition, but this is %s", check_describe(t, g->condition));
    }
    if (g->actuator && g->limit) {
        check_limit(t, g);
    }
}
