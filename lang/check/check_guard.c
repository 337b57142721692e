/* Guards: what an actuator is kept from, and that it may rest all the same. */
#include "check.h"

#include "image/ops.h"
#include "rigpulse/image.h"

#include <string.h>

static symbol *find_actuator(tree *t, const char *name, text_range at)
{
    symbol *s = tree_find(t, name);
    if (!s) {
        tree_unknown(t, at, name);
        return NULL;
    }
    if (s->kind != SYMBOL_ACTUATOR) {
        report_error(t->report, at, "only actuators are driven", "'%s' is no actuator", s->name);
        return NULL;
    }
    return s;
}

/* The least or the greatest that a fixed value can become, in the actuator's unit. */
static double extreme_of(const node *n, unit wanted, bool least)
{
    const symbol *param = n->kind == NODE_NAME ? n->symbol : NULL;
    const double number = param ? (least ? param->least : param->greatest) : n->number;
    return unit_is_bare(n->type.unit) ? number : unit_convert(number, n->type.unit, wanted);
}

static void check_limit(tree *t, const guard *g)
{
    const symbol *s = g->actuator;
    const bool above = g->side == RGP_GUARD_ABOVE;
    const unit u = s->type.unit;
    if (s->type.kind == TYPE_NAMED ? !(s->is_switch && g->named) : g->named) {
        report_error(t->report, g->limit->at,
                     s->is_switch                 ? "for instance: never lamp on while ..."
                     : s->type.kind == TYPE_NAMED ? "for instance: never lamp driven while ..."
                                                  : "for instance: never pump above 0 while ...",
                     s->is_switch                 ? "'%s' is on or off"
                     : s->type.kind == TYPE_NAMED ? "'%s' has names, which are not above or below one another"
                                                  : "'%s' is driven in numbers",
                     s->name);
        return;
    }
    if (g->limit->kind == NODE_NUMBER && unit_is_bare(g->limit->type.unit)) {
        g->limit->type.unit = u; /* as in the actuator's own line */
    }
    if (!s->is_switch && !check_fixed(t, g->limit, u, false, "a guard's limit")) {
        return;
    }
    const double limit = extreme_of(g->limit, u, above);
    if (above ? s->initial > limit : s->initial < limit) {
        report_error(t->report, g->limit->at, "rest within what the guard allows, or guard less",
                     s->is_switch ? "'%s' rests at what this guard forbids"
                                  : "'%s' rests at %g %s, which this guard forbids",
                     s->name, s->initial, u.text);
    }
}

/* The value written in the last tick is not yet what is written in this one. */
static void warn_of_lateness(tree *t, const node *n)
{
    const bool plain = n->kind == NODE_COMPARE || n->kind == NODE_IS;
    if (plain && n->a->kind == NODE_NAME && n->a->symbol && n->a->symbol->kind == SYMBOL_ACTUATOR) {
        report_warning(t->report, n->at, "two that must not be driven together: never A with B",
                       "this condition sees '%s' as it was written in the last tick", n->a->symbol->name);
    }
}

static void check_condition(tree *t, node *n, const char *word, const char *advice)
{
    check_node(t, n);
    if (!check_is_unknown(n) && n->type.kind != TYPE_TRUTH) {
        report_error(t->report, n->at, advice, "'%s' needs a condition, but this is %s", word, check_describe(t, n));
    }
}

static bool is_fixed(const node *n)
{
    return n->kind == NODE_NUMBER || (n->kind == NODE_NAME && n->symbol && n->symbol->kind == SYMBOL_PARAM);
}

/* Only a guard that lets nothing be driven, on what the loop measures. */
static bool forbids(const guard *g, const loop *l)
{
    const node *c = g->condition;
    const bool rests = !g->limit || (g->limit->kind == NODE_NUMBER && g->limit->number == g->actuator->initial);
    return l->sound && l->actuator == g->actuator && rests && c->kind == NODE_COMPARE && c->a->kind == NODE_NAME &&
           l->measured->kind == NODE_NAME && c->a->symbol == l->measured->symbol && is_fixed(c->b) &&
           is_fixed(l->setpoint);
}

/* A setpoint that can only be held by driving what the guard keeps at rest there. */
static void warn_of_setpoint(tree *t, const guard *g)
{
    for (unsigned i = 0; i < t->loops; i++) {
        const loop *l = t->loop[i];
        if (!forbids(g, l)) {
            continue;
        }
        const unit u = l->measured->type.unit;
        const bool above = strcmp(g->condition->text, "above") == 0;
        const double set = above ? check_greatest_of(l->setpoint, u) : check_least_of(l->setpoint, u);
        const double limit = above ? check_least_of(g->condition->b, u) : check_greatest_of(g->condition->b, u);
        if (above ? set > limit : set < limit) {
            report_warning(t->report, g->condition->at, "guard farther out, or keep the setpoint within",
                           "the setpoint of '%s' %s %g %s, but this guard keeps '%s' at rest %s %g %s", l->name,
                           l->setpoint->kind == NODE_NUMBER ? "is" : "can be", set, u.text, g->actuator->name,
                           g->condition->text, limit, u.text);
        }
    }
}

void check_guard(tree *t, guard *g)
{
    g->actuator = g->name ? find_actuator(t, g->name, g->name_at) : NULL;
    if (g->name && !g->actuator) {
        return;
    }
    if (g->other_name) {
        g->other = find_actuator(t, g->other_name, g->other_at);
        if (g->other == g->actuator) {
            report_error(t->report, g->other_at, NULL, "'%s' cannot be kept from itself", g->name);
        }
        return;
    }
    if (!g->condition) {
        return;
    }
    check_condition(t, g->condition, "while", "for instance: never pump above 0 while tide is high");
    warn_of_lateness(t, g->condition);
    if (g->actuator && g->limit) {
        check_limit(t, g);
    }
    if (g->actuator) {
        warn_of_setpoint(t, g);
    }
}

void check_stall(tree *t, stall *s)
{
    symbol *actuator = find_actuator(t, s->name, s->name_at);
    s->actuator = actuator;
    check_node(t, s->value);
    if (!actuator || !check_need_number(t, s->value)) {
        return;
    }
    const unit moved = unit_difference(s->value->type.unit);
    if (s->value->kind == NODE_NUMBER) {
        report_error(t->report, s->value->at, "for instance: never span stalled, place moves 2 mm in 1 s",
                     "a number does not move");
        return;
    }
    if (!check_fixed_number(t, s->amount, moved, "how far it moves", &s->amount_by) ||
        !check_fixed_number(t, s->time, unit_seconds, "the time", &s->time_s)) {
        return;
    }
    if (!(s->amount_by > 0.0)) {
        report_error(t->report, s->amount->at, NULL, "how far it moves must be above 0");
    } else if (!(s->time_s * 1e6 >= t->tick_us)) {
        report_error(t->report, s->time->at, NULL, "the time must be at least a tick");
    } else if (actuator->longest && s->time_s >= actuator->longest_s) {
        report_warning(t->report, s->time->at, "make it shorter", "'%s' is driven for %g s at the longest anyway",
                       actuator->name, actuator->longest_s);
    }
}

void check_stop(tree *t, stop *s)
{
    if (s->condition) {
        check_condition(t, s->condition, "stop while", "for instance: stop while button is on");
    }
    if (s->release) {
        check_condition(t, s->release, "until", "for instance: stop while button is on until reset is on");
    }
}

/* A stage that counts or learns, anywhere in the signal's own line. */
static bool keeps(const node *n)
{
    return n && n->kind == NODE_STAGE &&
           ((rgp_op_retainer_of(n->stage->op) &&
             (n->stage->op != RGP_OP_GAUGE || strcmp(n->stage->word, "count") == 0)) ||
            keeps(n->a));
}

void check_keep(tree *t, keep *k)
{
    symbol *s = tree_find(t, k->name);
    if (!s) {
        tree_unknown(t, k->at, k->name);
        return;
    }
    if (s->kind != SYMBOL_SIGNAL || !keeps(s->value)) {
        report_error(t->report, k->at, "name the signal whose line has the stage",
                     "'%s' has no 'count', 'zero' or 'span' of its own", s->name);
        return;
    }
    for (const keep *other = t->keep; other < k; other++) {
        if (other->signal == s) {
            report_error(t->report, k->at, NULL, "'%s' is kept already", s->name);
            return;
        }
    }
    k->signal = s;
}
