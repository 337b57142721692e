/* Expressions: what may be joined, compared and converted. */
#include "check.h"

#include "image/ops.h"
#include "rigpulse/image.h"

#include <string.h>

static void check_name(tree *t, node *n)
{
    symbol *s = tree_find(t, n->text);
    if (!s) {
        tree_unknown(t, n->at, n->text);
        return;
    }
    n->symbol = s;
    s->used = true;
    n->type = s->type;
}

static void check_logic(tree *t, node *n)
{
    const type_kind a = n->a->type.kind, b = n->b->type.kind;
    for (int side = 0; side < 2; side++) {
        const node *x = side ? n->b : n->a;
        if (x->type.kind != TYPE_TRUTH && x->type.kind != TYPE_EVENT) {
            report_error(t->report, x->at,
                         x->type.kind == TYPE_NAMED ? "say what it is, for instance: gate is on" : NULL,
                         "'%s' joins conditions, but this is %s", n->text, check_describe(t, x));
            return;
        }
    }
    const bool both = n->op == RGP_OP_BOTH;
    if (both ? a == TYPE_EVENT && b == TYPE_EVENT : a != b) {
        report_error(t->report, n->at, both ? "make the second one a condition: 'is' rather than 'goes'" : NULL,
                     both ? "two events hardly ever come in one tick" : "'or' needs two conditions or two events");
        return;
    }
    n->type.kind = a == TYPE_EVENT || b == TYPE_EVENT ? TYPE_EVENT : TYPE_TRUTH;
}

static void check_join(tree *t, node *n)
{
    if (check_is_unknown(n->a) || check_is_unknown(n->b)) {
        return;
    }
    if (n->op == RGP_OP_BOTH || n->op == RGP_OP_ANY) {
        check_logic(t, n);
    } else {
        check_arithmetic(t, n);
    }
}

/* A limit that is computed is compared by the difference: "a above b" is "a - b above 0". */
static void check_compare(tree *t, node *n)
{
    if (!check_need_number(t, n->a) || !check_need_number(t, n->b)) {
        return;
    }
    const unit u = n->a->type.unit;
    const bool fixed = n->b->kind == NODE_NUMBER || (n->b->kind == NODE_NAME && n->b->symbol->kind == SYMBOL_PARAM);
    check_adopt_bare(n->b, u);
    if (!unit_same_kind(u, n->b->type.unit) || u.point != n->b->type.unit.point) {
        check_bad_pair(t, n);
        return;
    }
    if (n->c &&
        (!check_is_fixed(t, n->c, u, true, "the margin") ||
         !check_within(t, n->c, unit_difference(u),
                       limits_of_setting(RGP_OP_COMPARE, offsetof(rgp_compare_config, margin)), "the margin"))) {
        return;
    }
    n->type.kind = TYPE_TRUTH;
    if (!fixed) {
        node *difference = tree_node(t, NODE_JOIN, n->at);
        difference->op = RGP_OP_SUBTRACT;
        difference->text = "-";
        difference->a = n->a;
        difference->b = n->b;
        check_sum(t, difference);
        n->a = difference;
        n->b = tree_node(t, NODE_NUMBER, n->at);
        n->b->type = difference->type;
    }
}

/* "SEQUENCE is running" and "is idle", and of anything "is known": true when it has been handled here. */
static bool check_is_of_state(tree *t, node *n)
{
    const symbol *s = n->a->kind == NODE_NAME ? n->a->symbol : NULL;
    uint32_t part;
    (void)t;
    if (s && s->kind == SYMBOL_STATE && s->state == RGP_STATE_SEQUENCE && symbol_part(s, n->text, &part)) {
        n->number = 0.0;
        n->negated ^= part == 1;
        n->type.kind = TYPE_TRUTH;
        return true;
    }
    if (strcmp(n->text, "known") != 0 || n->a->type.kind == TYPE_EVENT ||
        (n->a->type.kind == TYPE_NAMED && symbol_part(n->a->type.symbol, "known", &part))) {
        return false;
    }
    n->kind = NODE_KNOWN;
    n->type.kind = TYPE_TRUTH;
    return true;
}

/* "ACTUATOR is driven", and "is settled": true when it has been handled here. */
static bool check_is_of_actuator(tree *t, node *n)
{
    const symbol *s = n->a->kind == NODE_NAME ? n->a->symbol : NULL;
    const bool settled = strcmp(n->text, "settled") == 0;
    if (!s || s->kind != SYMBOL_ACTUATOR || (!settled && strcmp(n->text, "driven") != 0)) {
        return false;
    }
    if (!settled) {
        n->number = s->initial;
        n->negated = !n->negated;
    } else if (!s->settle) {
        report_error(t->report, n->text_at, arena_print(t->arena, "add to the line of '%s': settle 300 ms", s->name),
                     "'%s' states no settle time", s->name);
        return true;
    } else {
        n->kind = NODE_DETECT;
        n->detector = detector_word_find("still");
        n->b = tree_node(t, NODE_NUMBER, n->text_at);
        n->b->number = s->settle_s;
        n->b->type = (type){TYPE_NUMBER, unit_seconds, NULL};
        if (n->negated) {
            node *inner = tree_node(t, NODE_DETECT, n->at);
            *inner = *n;
            inner->type.kind = TYPE_TRUTH;
            *n = (node){.kind = NODE_NOT, .at = n->at, .a = inner};
        }
    }
    n->type.kind = TYPE_TRUTH;
    return true;
}

static void check_is(tree *t, node *n)
{
    if (check_is_unknown(n->a) || check_is_of_actuator(t, n) || check_is_of_state(t, n)) {
        return;
    }
    if (n->a->type.kind != TYPE_NAMED) {
        report_error(t->report, n->a->at, "compare a quantity with 'below' or 'above'",
                     "'is' asks for the name of a band or of a switch's state, but this is %s",
                     check_describe(t, n->a));
        return;
    }
    symbol *s = tree_find(t, n->a->type.symbol->name);
    uint32_t number;
    if (!symbol_part(s, n->text, &number)) {
        report_missing(t->report, n->text_at, symbol_choose(t, s, n->text), "'%s' is never '%s'", s->name, n->text);
        return;
    }
    n->number = number;
    n->type.kind = TYPE_TRUTH;
}

static void check_convert(tree *t, node *n)
{
    const type to = n->type;
    n->type.kind = TYPE_UNKNOWN;
    if (!check_need_number(t, n->a)) {
        return;
    }
    if (!unit_same_kind(to.unit, n->a->type.unit) || to.unit.point != n->a->type.unit.point) {
        report_error(t->report, n->at, NULL, "%s cannot be written in %s", check_describe(t, n->a), to.unit.text);
        return;
    }
    n->type = to;
    if (n->a->kind == NODE_NUMBER) {
        *n = *check_convert_to(t, n->a, to.unit);
    }
}

static void check_lasts(tree *t, node *n)
{
    if (check_is_unknown(n->a)) {
        return;
    }
    if (n->a->type.kind != TYPE_TRUTH) {
        report_error(t->report, n->a->at, "for instance: on tide is low for 3 s",
                     "only a condition lasts for a time, but this is %s", check_describe(t, n->a));
        return;
    }
    if (check_is_fixed(t, n->b, unit_seconds, false, "how long it lasts") &&
        check_within(t, n->b, unit_seconds, limits_of_setting(RGP_OP_LASTS, offsetof(rgp_lasts_config, time)),
                     "how long it lasts")) {
        n->type = (type){TYPE_TRUTH, unit_none, NULL};
    }
}

/* Its settings stand in b, c and d; one that is not written is 0. */
static void check_detect(tree *t, node *n)
{
    const detector_word *word = n->detector;
    node *const setting[DETECTOR_SETTINGS_MAX] = {n->b, n->c, n->d};
    unit in = unit_none;
    if (word->input != DETECTS_NOTHING) {
        if (check_is_unknown(n->a) || (word->input == DETECTS_NUMBER && !check_need_number(t, n->a))) {
            return;
        }
        in = n->a->type.unit;
    }
    if (word->input == DETECTS_NAMED && n->a->type.kind != TYPE_NAMED) {
        report_error(t->report, n->a->at, "of a quantity: depth moved 5 mm over 10 s",
                     "'%s' needs bands or a switch, but this is %s", word->word, check_describe(t, n->a));
        return;
    }
    if (word->input == DETECTS_EVENT && n->a->type.kind != TYPE_EVENT) {
        report_error(t->report, n->a->at, "for instance: gate goes on", "'%s' needs an event, but this is %s",
                     word->word, check_describe(t, n->a));
        return;
    }
    for (uint32_t i = 0; i < DETECTOR_SETTINGS_MAX && setting[i]; i++) {
        const detector_setting *is = &word->setting[i];
        const bool interval = is->unit == UNIT_IN_INTERVAL;
        const unit wanted = interval ? unit_difference(in) : unit_seconds;
        if (!check_is_fixed(t, setting[i], wanted, interval, is->name) ||
            !check_within(t, setting[i], wanted, detector_limits(word, is), is->name)) {
            return;
        }
    }
    n->type = (type){word->gives_event ? TYPE_EVENT : TYPE_TRUTH, unit_none, NULL};
}

static void check_not(tree *t, node *n)
{
    if (!check_is_unknown(n->a) && n->a->type.kind != TYPE_TRUTH) {
        report_error(t->report, n->at, NULL, "'not' needs a condition, but this is %s", check_describe(t, n->a));
        return;
    }
    n->type.kind = n->a->type.kind;
}

/* The parts of a node. The names in it have been looked at: they stand before it in the order of names. */
static void check_parts(tree *t, const node *n)
{
    node *const part[] = {n->a, n->b, n->c, n->d};
    for (uint32_t i = 0; i < sizeof part / sizeof *part; i++) {
        if (part[i]) {
            check_node(t, part[i]);
        }
    }
    for (uint32_t i = 0; n->setting && i < STAGE_SETTINGS_MAX; i++) {
        const setting_node *s = &n->setting[i];
        if (s->value) {
            check_node(t, s->value);
        }
        for (uint32_t k = 0; k < s->points; k++) {
            check_node(t, s->point[k].in);
            check_node(t, s->point[k].out);
        }
    }
}

void check_node(tree *t, node *n)
{
    if (n->kind == NODE_NUMBER) {
        return;
    }
    check_parts(t, n);
    switch (n->kind) {
    case NODE_NAME:
        check_name(t, n);
        break;
    case NODE_JOIN:
        check_join(t, n);
        break;
    case NODE_APPLY:
        check_apply(t, n);
        break;
    case NODE_COMPARE:
        check_compare(t, n);
        break;
    case NODE_IS:
        check_is(t, n);
        break;
    case NODE_EDGE:
        n->type.kind = check_is_unknown(n->a) ? TYPE_UNKNOWN : TYPE_EVENT;
        break;
    case NODE_NOT:
        check_not(t, n);
        break;
    case NODE_LASTS:
        check_lasts(t, n);
        break;
    case NODE_DETECT:
        check_detect(t, n);
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
    default:
        break;
    }
}

bool check_fixed(tree *t, node *n, unit wanted, bool interval, const char *what)
{
    if (n) {
        check_node(t, n);
    }
    return n && check_is_fixed(t, n, wanted, interval, what);
}

bool check_fixed_number(tree *t, node *n, unit wanted, const char *what, double *value)
{
    if (n) {
        check_node(t, n);
    }
    return n && check_is_fixed_number(t, n, wanted, what, value);
}

void check_truth(tree *t, node *n, const char *word)
{
    check_node(t, n);
    if (!check_is_unknown(n) && n->type.kind != TYPE_TRUTH) {
        report_error(t->report, n->at, "for instance: gate is on, or depth above 3 cm",
                     "'%s' needs a condition, but this is %s", word, check_describe(t, n));
    }
}
