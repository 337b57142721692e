/* Rules: what fires them, what they do, and who else wants the same actuator. */
#include "check.h"

#include "image/ops.h"
#include "rigpulse/image.h"

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
                 r->repeats ? "for instance: while tide is low" : "for instance: on tide goes low",
                 r->repeats ? "'while' needs a condition, but this is %s" : "'on' needs an event, but this is %s",
                 check_describe(t, r->trigger));
}

void check_duration(tree *t, node *n, const char *what, double low, bool warns)
{
    if (!n || !check_fixed(t, n, unit_seconds, false, what) ||
        !check_within(t, n, unit_seconds, limits_between(low, 1e8), what)) {
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
    const char *u = s->type.unit.text;
    if (a->how == DRIVE_TO && s->type.kind != TYPE_NAMED && node_constant(a->value, s->type.unit, &value) &&
        (value < s->least || value > s->greatest)) {
        report_error(t->report, a->value->at, "widen the travel or ask for less",
                     "%g %s is outside the travel %g..%g %s of '%s'", value, u, s->least, s->greatest, u, s->name);
    }
}

static bool knows_something(const node *n)
{
    return n->kind == NODE_STAGE && (rgp_op_is_owned(n->stage->op) || knows_something(n->a));
}

static void check_relearn(tree *t, action *a, const symbol *s)
{
    if (s->kind != SYMBOL_SIGNAL || !s->value || !knows_something(s->value)) {
        report_error(t->report, a->at, "name the signal whose line has the stage",
                     "'%s' has no stage of its own that learns or counts on, as 'zero' and 'accumulate' do", s->name);
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

static bool check_how(tree *t, const action *a, const symbol *s)
{
    const bool fits = a->how == DRIVE_TO || (a->how == DRIVE_TOGGLE ? s->is_switch : s->type.kind != TYPE_NAMED);
    if (!fits && s->is_switch) {
        report_error(t->report, a->at, "for instance: toggle lamp", "'%s' is on or off: it can be toggled", s->name);
    } else if (!fits && s->type.kind == TYPE_NAMED) {
        report_error(t->report, a->at, "give it one of its names", "'%s' has names, and no other side, more or less",
                     s->name);
    } else if (!fits) {
        report_error(t->report, a->at, "for instance: pump 10 % more",
                     "'%s' is driven in %s: it can do so much more or less", s->name, check_drive_unit(s));
    }
    return fits;
}

static node *number_in(tree *t, const node *like, double number, unit u)
{
    node *n = tree_node(t, NODE_NUMBER, like->at);
    n->number = number;
    n->type = (type){TYPE_NUMBER, u, NULL};
    return n;
}

static node *joined(tree *t, uint8_t op, const char *word, node *a, node *b)
{
    node *n = tree_node(t, NODE_JOIN, a->at);
    n->op = op;
    n->text = word;
    n->a = a;
    n->b = b;
    return n;
}

/* "for 3 portions": what the actuator gives in a time makes a time of an amount. */
static void check_amount(tree *t, action *a, const symbol *s)
{
    if (!a->duration) {
        return;
    }
    check_node(t, a->duration);
    const node *n = a->duration;
    if (check_is_unknown(n) || n->type.kind != TYPE_NUMBER || !(s->seconds_each > 0.0) ||
        !unit_same_kind(n->type.unit, s->portion_unit) ||
        !check_fixed(t, a->duration, s->portion_unit, false, "the amount") ||
        !check_within(t, a->duration, s->portion_unit, limits_between(1e-6, 1e8), "the amount")) {
        return;
    }
    const unit each = unit_product(&t->units, unit_seconds, s->portion_unit, -1);
    node *time = joined(t, RGP_OP_MULTIPLY, "*", a->duration, number_in(t, n, s->seconds_each, each));
    a->duration = joined(t, RGP_OP_ADD, "+", time, number_in(t, n, s->lead_s, unit_seconds));
    check_node(t, a->duration);
}

static void check_repeats(tree *t, const action *a)
{
    double once, period;
    if (!a->period) {
        return;
    }
    check_duration(t, a->period, "the time from one to the next", 1e-6, true);
    if (node_constant(a->duration, unit_seconds, &once) && node_constant(a->period, unit_seconds, &period) &&
        !(once < period)) {
        report_error(t->report, a->period->at, "make it longer than the action's own time",
                     "there is no pause between times of %g s, one each %g s", once, period);
    }
}

static const char *const state_words[] = {
    [RGP_STATE_MODE] = "mode", [RGP_STATE_CUE] = "cue", [RGP_STATE_SEQUENCE] = "sequence"};

/* "begin" and "end" need a sequence, "cue" a cue, a name alone a mode. */
static void check_state_action(tree *t, action *a, symbol *s)
{
    const uint32_t wanted = a->kind == ACTION_STATE   ? RGP_STATE_CUE
                            : a->kind == ACTION_DRIVE ? RGP_STATE_MODE
                                                      : RGP_STATE_SEQUENCE;
    uint32_t part = 1;
    if (s->kind != SYMBOL_STATE || s->state != wanted) {
        const bool state = s->kind == SYMBOL_STATE;
        report_error(t->report, a->at,
                     !state                           ? NULL
                     : s->state == RGP_STATE_SEQUENCE ? "begin it, or end it"
                     : s->state == RGP_STATE_CUE      ? "give it: cue NAME"
                                                      : "set it: MODE NAME",
                     "'%s' is %s%s", s->name, state ? "a " : "no ", state_words[state ? s->state : wanted]);
        return;
    }
    if (wanted == RGP_STATE_MODE) {
        if (a->how != DRIVE_TO || a->duration || a->value->kind != NODE_NAME ||
            !symbol_part(s, a->value->text, &part)) {
            const bool name = a->value->kind == NODE_NAME && a->how == DRIVE_TO && !a->duration;
            report_error(t->report, a->value->at,
                         name ? symbol_choose(t, s, a->value->text) : "give it one of its names, for good",
                         "'%s' has no such name", s->name);
            return;
        }
        s->entered |= 1u << part;
    }
    a->kind = a->kind == ACTION_DRIVE ? ACTION_STATE : a->kind;
    a->state = s;
    if (wanted == RGP_STATE_SEQUENCE && a->kind == ACTION_BEGIN) {
        t->sequence[s->sequence].begun = true;
        part = a->anew;
    }
    if (wanted == RGP_STATE_CUE) {
        s->entered = 1;
    }
    a->value = number_in(t, &(node){.at = a->at}, part, unit_none);
}

/* The words that an action or a step can begin with. */
static const char *line_word(void *self, uint32_t i)
{
    (void)self;
    return i < ACTION_WORDS ? action_words[i].word : step_words[i - ACTION_WORDS].word;
}

/* The names of one sort of states; NULL behind the last. */
static const char *state_name(void *self, uint32_t i)
{
    return ((const char *const *)self)[i];
}

static void unknown_state(tree *t, const action *a, uint32_t state)
{
    const char **name = arena_get(t->arena, (t->symbols + 1) * sizeof *name);
    uint32_t count = 0;
    if (tree_is_refused(t, a->text)) {
        t->report->complaints++;
        return;
    }
    for (unsigned i = 0; i < t->symbols; i++) {
        name[count] = t->symbol[i]->name;
        count += t->symbol[i]->kind == SYMBOL_STATE && t->symbol[i]->state == state;
    }
    report_missing(t->report, a->at, report_choose(t->report, a->text, state_name, name, count), "there is no %s '%s'",
                   state_words[state], a->text);
}

/* A line that begins with no name of the rig: it may be a mistyped word. */
static void unknown_line(tree *t, const action *a)
{
    if (a->kind == ACTION_BEGIN || a->kind == ACTION_FINISH || a->kind == ACTION_STATE) {
        unknown_state(t, a, a->kind == ACTION_STATE ? RGP_STATE_CUE : RGP_STATE_SEQUENCE);
        return;
    }
    const char *near = tree_suggest(t, a->text) || rgp_word_elsewhere(a->text)
                           ? NULL
                           : report_suggest(t->report, a->text, line_word, NULL, ACTION_WORDS + STEP_WORDS);
    if (near) {
        report_missing(t->report, a->at, near, TREE_MISSING, a->text);
    } else {
        tree_unknown(t, a->at, a->text);
    }
}

void check_action(tree *t, action *a)
{
    if (a->kind == ACTION_MARK) {
        if (a->value) {
            check_node(t, a->value);
            check_need_number(t, a->value);
        }
        return;
    }
    symbol *s = tree_find(t, a->text);
    if (!s) {
        unknown_line(t, a);
        return;
    }
    if (a->kind == ACTION_RELEARN) {
        check_relearn(t, a, s);
        return;
    }
    if (s->kind == SYMBOL_STATE || (a->kind != ACTION_DRIVE && a->kind != ACTION_RELEARN)) {
        check_state_action(t, a, s);
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
    if (!check_how(t, a, s)) {
        return;
    }
    if (a->how != DRIVE_TOGGLE && check_drive_value(t, s, a->value, false)) {
        check_travel(t, a);
    }
    check_amount(t, a, s);
    if (a->duration && a->duration->kind != NODE_JOIN) {
        check_duration(t, a->duration, "the action's time", 1e-6, true);
    }
    check_repeats(t, a);
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
    if (r->actions == 0 && r->trigger && !r->broken) {
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
