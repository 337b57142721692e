/* Tokens -> expressions, with their stages. */
#include "expression_node.h"
#include "parse.h"

#include "image/ops.h"

static node *parse_relation(cursor *p);
static node *parse_lasting(cursor *p);

/* call: WORD "(" condition ["," condition] ")" */
static node *parse_call(cursor *p, const operator_word *word)
{
    const text_range at = cursor_next(p)->at;
    const char *advice = arena_print(p->tree->arena, "for instance: %s", word->example);
    node *part[2] = {NULL};
    cursor_need_mark(p, MARK_OPEN, advice);
    for (uint32_t i = 0; i < word->takes; i++) {
        if (i > 0) {
            cursor_need_mark(p, MARK_COMMA, advice);
        }
        part[i] = parse_condition(p);
    }
    cursor_need_mark(p, MARK_CLOSE, advice);
    return word->takes == 2 ? node_join(p, word->word, part[0], part[1])
                            : node_apply(p, word, (text_range){at.start, p->at[-1].at.end}, part[0]);
}

/* primary: NUMBER [UNIT] | NAME | "(" condition ")" | call */
static node *parse_primary(cursor *p)
{
    const token *t = cursor_now(p);
    if (t->kind == TOKEN_NUMBER) {
        return cursor_number(p);
    }
    if (cursor_take_mark(p, MARK_OPEN)) {
        node *inside = parse_condition(p);
        cursor_need_mark(p, MARK_CLOSE, "every '(' needs its ')'");
        return inside;
    }
    const operator_word *called = t->kind == TOKEN_WORD ? operator_word_find(t->text) : NULL;
    if (called && called->takes > 0) {
        return parse_call(p, called);
    }
    if (t->kind != TOKEN_WORD) {
        cursor_fail_expected(p, "a value", NULL);
    }
    if (token_is_mark(cursor_behind(p), MARK_OPEN)) {
        const char *foreign = rgp_word_elsewhere(t->text);
        cursor_fail(p, t->at,
                    foreign ? foreign
                            : arena_print(p->tree->arena, "what takes values in brackets: %s", cursor_calls(p)),
                    "nothing called '%s' takes values in brackets", t->text);
    }
    cursor_next(p);
    node *n = tree_node(p->tree, NODE_NAME, t->at);
    n->text = t->text;
    return n;
}

/* unary: "-" unary | primary */
static node *parse_unary(cursor *p)
{
    const token *t = cursor_now(p);
    if (++p->depth > NEST_MAX) {
        cursor_fail(p, t->at, "name the inner part as a signal of its own", "this is nested too deep (limit %u)",
                    NEST_MAX);
    }
    node *n;
    if (cursor_take_mark(p, MARK_MINUS)) {
        n = node_negative(p, parse_unary(p));
        n->at.start = t->at.start;
        if (n->kind == NODE_NUMBER) {
            n->text_at.start = t->at.start;
        }
    } else {
        n = parse_primary(p);
    }
    p->depth--;
    return n;
}

/* term: unary {("*" | "/") unary} */
static node *parse_term(cursor *p)
{
    node *n = parse_unary(p);
    while (token_is_mark(cursor_now(p), MARK_TIMES) || token_is_mark(cursor_now(p), MARK_OVER)) {
        const char *word = cursor_next(p)->text;
        n = node_join(p, word, n, parse_unary(p));
    }
    return n;
}

/* sum: term {("+" | "-") term} */
node *parse_sum(cursor *p)
{
    node *n = parse_term(p);
    while (token_is_mark(cursor_now(p), MARK_PLUS) || token_is_mark(cursor_now(p), MARK_MINUS)) {
        const char *word = cursor_next(p)->text;
        n = node_join(p, word, n, parse_term(p));
    }
    return n;
}

static void parse_points(cursor *p, const node *n, setting_node *s, const stage_setting *is)
{
    const uint32_t most = (uint32_t)stage_limits(n->stage, is).high;
    unsigned room = 0;
    do {
        if (s->points >= most) {
            cursor_fail(p, cursor_now(p)->at, NULL, "too many points (limit %u)", most);
        }
        stage_refuse_word(p, n, cursor_now(p));
        point_node *point = ARENA_PUSH(p->tree->arena, s->point, s->points, room);
        point->in = parse_sum(p);
        cursor_need_mark(p, MARK_COLON, "points are written IN: OUT, IN: OUT");
        point->out = parse_sum(p);
    } while (!stage_setting_follows(p, n) && cursor_take_mark(p, MARK_COMMA));
    s->given = true;
}

static void parse_choice(cursor *p, const node *n, setting_node *s, const stage_setting *is)
{
    for (uint32_t i = 0; i < 2; i++) {
        if (cursor_take_word(p, is->choice[i])) {
            s->choice = i;
            return;
        }
    }
    stage_setting_missing(p, n, is);
}

static void parse_setting_value(cursor *p, const node *n, uint32_t index)
{
    const stage_setting *is = &n->stage->setting[index];
    setting_node *s = &n->setting[index];
    s->given = true;
    if (is->shape == SETTING_POINTS) {
        parse_points(p, n, s, is);
    } else if (is->shape == SETTING_CHOICE) {
        parse_choice(p, n, s, is);
    } else if (is->shape != SETTING_FLAG && is->shape != SETTING_KIND) {
        const token *t = cursor_now(p);
        if (t->kind == TOKEN_END || token_is_mark(t, MARK_BAR) || token_is_mark(t, MARK_COMMA)) {
            stage_setting_missing(p, n, is);
        }
        s->value = is->shape == SETTING_CONDITION ? parse_condition(p) : parse_sum(p);
    }
}

/* Settings without a word, from `index` on: they follow one another, with commas. */
static void parse_plain_settings(cursor *p, const node *n, uint32_t index, bool comma)
{
    for (; stage_setting_is_written(&n->stage->setting[index]) && !n->stage->setting[index].word; index++) {
        const setting_shape shape = n->stage->setting[index].shape;
        if (comma && shape != SETTING_CHOICE && !cursor_take_mark(p, shape == SETTING_UPTO ? MARK_RANGE : MARK_COMMA)) {
            stage_setting_missing(p, n, &n->stage->setting[index]);
        }
        parse_setting_value(p, n, index);
        if (shape == SETTING_UPTO) {
            stage_range_unit(n->setting[index - 1].value, n->setting[index].value);
        }
        comma = true;
    }
}

/* stage: WORD settings, as its row in stages.c says */
static node *parse_stage(cursor *p, node *input)
{
    const stage_word *stage = cursor_need_stage(p);
    node *n = node_stage(p, stage, input);
    parse_plain_settings(p, n, 0, false);
    for (uint32_t i; (i = stage_setting_next(p, n)) < STAGE_SETTINGS_MAX;) {
        cursor_take_mark(p, MARK_COMMA);
        cursor_next(p);
        parse_setting_value(p, n, i);
        parse_plain_settings(p, n, i + 1, true);
    }
    if (p->depth == 0 && token_is_mark(cursor_now(p), MARK_COMMA)) {
        stage_refuse_word(p, n, cursor_behind(p));
    }
    for (uint32_t i = 0; i < STAGE_SETTINGS_MAX && stage->setting[i].name; i++) {
        if (stage_setting_is_written(&stage->setting[i]) && stage->setting[i].initial >= REQUIRED &&
            !n->setting[i].given) {
            stage_setting_missing(p, n, &stage->setting[i]);
        }
    }
    n->at.end = p->at[-1].at.end;
    return n;
}

/* chain: sum {"|" stage} ["in" UNIT] */
node *parse_chain(cursor *p)
{
    node *n = parse_sum(p);
    while (cursor_take_mark(p, MARK_BAR)) {
        n = parse_stage(p, n);
    }
    if (token_is_word(cursor_now(p), "in") && cursor_behind(p)->kind == TOKEN_WORD) {
        cursor_next(p);
        node *converted = tree_node(p->tree, NODE_CONVERT, n->at);
        converted->a = n;
        converted->type = (type){TYPE_NUMBER, cursor_need_unit(p), NULL};
        return converted;
    }
    return n;
}

static const char *margin_word(void *self, uint32_t i)
{
    static const char *const word[] = {"margin"};
    (void)self;
    return word[i];
}

static const char *side_word(void *self, uint32_t i)
{
    static const char *const word[] = {"below", "above"};
    (void)self;
    return word[i];
}

/* Behind a limit's comma there is nothing but a margin; what looks like the word is meant to be it. */
static void refuse_margin(cursor *p)
{
    const token *word = cursor_behind(p);
    const char *advice = token_is_mark(cursor_now(p), MARK_COMMA) && word->kind == TOKEN_WORD
                             ? report_suggest(p->tree->report, word->text, margin_word, NULL, 1)
                             : NULL;
    if (advice) {
        cursor_fail(p, word->at, advice, "'%s' was not expected here", word->text);
    }
}

/* limit: ("below" | "above") chain [[","] "margin" sum] */
static node *parse_limit(cursor *p, node *value)
{
    const token *side = cursor_next(p);
    node *n = tree_node(p->tree, NODE_COMPARE, value->at);
    n->text = side->text;
    n->a = value;
    n->b = parse_chain(p);
    n->at.end = n->b->at.end;
    if (token_is_mark(cursor_now(p), MARK_COMMA) && token_is_word(cursor_behind(p), "margin")) {
        cursor_next(p);
    }
    refuse_margin(p);
    if (cursor_take_word(p, "margin")) {
        n->c = parse_sum(p);
        n->at.end = n->c->at.end;
    }
    return n;
}

/* is: "is" ["not"] NAME */
static node *parse_is(cursor *p, node *value, bool negated)
{
    node *n = tree_node(p->tree, NODE_IS, value->at);
    n->a = value;
    n->negated = negated;
    const token *name = cursor_need_name(p, "a name");
    n->text = name->text;
    n->text_at = name->at;
    n->at.end = name->at.end;
    return n;
}

/* edge: ("goes" | "leaves") NAME | "goes" limit */
static node *parse_edge(cursor *p, node *value, uint8_t which)
{
    node *n = tree_node(p->tree, NODE_EDGE, value->at);
    const bool limit =
        which == RGP_EDGE_RISE && (token_is_word(cursor_now(p), "below") || token_is_word(cursor_now(p), "above"));
    if (!limit && cursor_behind(p)->kind == TOKEN_NUMBER) {
        const token *word = cursor_now(p);
        const char *near = report_suggest(p->tree->report, word->text, side_word, NULL, 2);
        cursor_fail(p, word->at, near ? near : "a value goes below a limit, or above it", "'%s' was not expected here",
                    word->text);
    }
    n->a = limit ? parse_limit(p, value) : parse_is(p, value, false);
    n->which = which;
    n->at.end = n->a->at.end;
    return n;
}

/* event: lasting */
static node *parse_event(cursor *p)
{
    if (++p->depth > NEST_MAX) {
        cursor_fail(p, cursor_now(p)->at, NULL, "this is nested too deep (limit %u)", NEST_MAX);
    }
    node *n = node_event(p, parse_lasting(p));
    p->depth--;
    return n;
}

/* The settings behind a detector's word, in their order. */
static void parse_detector_settings(cursor *p, node *n)
{
    const detector_word *d = n->detector;
    node **const to[DETECTOR_SETTINGS_MAX] = {&n->b, &n->c, &n->d};
    for (uint32_t i = 0; i < DETECTOR_SETTINGS_MAX && d->setting[i].name; i++) {
        const detector_setting *is = &d->setting[i];
        if (is->comma && token_is_mark(cursor_now(p), MARK_COMMA) && token_is_word(cursor_behind(p), is->word)) {
            cursor_next(p);
        }
        if (is->optional && !token_is_word(cursor_now(p), is->word)) {
            continue;
        }
        if (is->word) {
            cursor_need_word(p, is->word, arena_print(p->tree->arena, "for instance: %s", d->example));
        }
        *to[i] = parse_sum(p);
    }
}

/* after: chain "after" event */
static node *parse_after(cursor *p, node *time)
{
    node *n = node_detect(p, "after", time->at, NULL);
    n->b = time;
    n->a = parse_event(p);
    return n;
}

/* times: NUMBER "times" event "within" sum */
static node *parse_times(cursor *p)
{
    node *n = node_detect(p, "times", cursor_now(p)->at, NULL);
    n->number = cursor_next(p)->number;
    cursor_next(p);
    const number_limits may = limits_of_setting(RGP_OP_TIMES, offsetof(rgp_times_config, count));
    if (n->number != (double)(uint32_t)n->number || n->number < may.low || n->number > may.high) {
        cursor_fail(p, n->at, NULL, "an event can be counted from %g to %g times", may.low, may.high);
    }
    n->a = parse_event(p);
    cursor_need_word(p, "within", "for instance: on 3 times gate goes on within 10 s");
    n->b = parse_sum(p);
    return n;
}

/* Its word stands first, and behind it what it looks at, if it looks at anything. */
static node *parse_first(cursor *p, const detector_word *d)
{
    node *n = node_detect(p, d->word, p->at[-1].at, NULL);
    if (++p->depth > NEST_MAX) {
        cursor_fail(p, n->at, NULL, "this is nested too deep (limit %u)", NEST_MAX);
    }
    if (d->input != DETECTS_NOTHING) {
        n->a = parse_relation(p);
    }
    p->depth--;
    parse_detector_settings(p, n);
    return n;
}

/* not: "not" relation */
static node *parse_not(cursor *p)
{
    const text_range at = p->at[-1].at;
    if (++p->depth > NEST_MAX) {
        cursor_fail(p, at, NULL, "this is nested too deep (limit %u)", NEST_MAX);
    }
    node *n = tree_node(p->tree, NODE_NOT, at);
    n->a = parse_relation(p);
    p->depth--;
    return n;
}

/* The words behind a value make it a condition or an event. */
static node *parse_said_of(cursor *p, node *n)
{
    if (token_is_word(cursor_now(p), "below") || token_is_word(cursor_now(p), "above")) {
        return parse_limit(p, n);
    }
    if (cursor_take_word(p, "is")) {
        const bool negated = cursor_take_word(p, "not");
        return parse_is(p, n, negated);
    }
    if (cursor_take_word(p, "goes")) {
        return parse_edge(p, n, RGP_EDGE_RISE);
    }
    if (cursor_take_word(p, "leaves")) {
        return parse_edge(p, n, RGP_EDGE_FALL);
    }
    if (cursor_take_word(p, "after")) {
        return parse_after(p, n);
    }
    const detector_word *d = cursor_take_detector(p, DETECTOR_BEHIND);
    if (d) {
        n = node_detect(p, d->word, n->at, n);
        node_choose(p, n);
        parse_detector_settings(p, n);
    }
    return n;
}

/* relation: not | "start" | FIRST detector [relation] settings | times | chain [limit | is | edge | after | BEHIND
 * detector] */
static node *parse_relation(cursor *p)
{
    const token *t = cursor_now(p);
    const detector_word *first = cursor_take_detector(p, DETECTOR_FIRST);
    node *n;
    if (first) {
        n = parse_first(p, first);
    } else if (cursor_take_word(p, "not")) {
        n = parse_not(p);
    } else if (cursor_take_word(p, "start")) {
        n = tree_node(p->tree, NODE_START, t->at);
    } else if (t->kind == TOKEN_NUMBER && token_is_word(cursor_behind(p), "times")) {
        n = parse_times(p);
    } else {
        n = parse_said_of(p, parse_chain(p));
    }
    n->at.end = p->at[-1].at.end;
    return n;
}

/* lasting: relation ["for" sum] */
static node *parse_lasting(cursor *p)
{
    node *n = parse_relation(p);
    if (cursor_take_word(p, "for")) {
        node *lasts = tree_node(p->tree, NODE_LASTS, n->at);
        lasts->a = n;
        lasts->b = parse_sum(p);
        lasts->at.end = lasts->b->at.end;
        return lasts;
    }
    return n;
}

/* both: lasting {"and" lasting} */
static node *parse_both(cursor *p)
{
    node *n = parse_lasting(p);
    while (cursor_take_word(p, "and")) {
        n = node_join(p, "and", n, parse_lasting(p));
    }
    return n;
}

/* condition: both {"or" both} */
node *parse_condition(cursor *p)
{
    node *n = parse_both(p);
    while (cursor_take_word(p, "or")) {
        n = node_join(p, "or", n, parse_both(p));
    }
    return n;
}
