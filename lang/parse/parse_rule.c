/* Statements that act: rules with the lines below them, guards, stops, drives, what is kept, and the hook-up's head. */
#include "expression_node.h"
#include "parse.h"

#include "image/ops.h"
#include "rigpulse/image.h"

#include <stdio.h>
#include <string.h>

/* mark: "mark" (NAME | TEXT) [chain] */
static void parse_mark(cursor *p, action *a)
{
    const token *t = cursor_next(p);
    if (t->kind != TOKEN_WORD && t->kind != TOKEN_STRING) {
        cursor_fail(p, t->at, "for instance: mark \"full\"", "a mark needs a text");
    }
    a->kind = ACTION_MARK;
    a->text = t->text;
    a->value = cursor_now(p)->kind == TOKEN_END ? NULL : parse_chain(p);
}

/* repeats: ["," NUMBER "times" "every" sum] */
static void parse_repeats(cursor *p, action *a)
{
    static const char advice[] = "for instance: lamp on for 200 ms, 3 times every 1 s";
    const token *count = cursor_behind(p);
    a->times = 1;
    if (!token_is_mark(cursor_now(p), MARK_COMMA) || count->kind != TOKEN_NUMBER) {
        return;
    }
    cursor_next(p);
    cursor_next(p);
    cursor_need_word(p, "times", advice);
    if (count->number != (double)(uint32_t)count->number || count->number < 2.0 || count->number > 1000.0) {
        cursor_fail(p, count->at, advice, "an action can be repeated from 2 to 1000 times");
    }
    a->times = (uint32_t)count->number;
    cursor_need_word(p, "every", advice);
    a->period = parse_sum(p);
}

/* priority: ["," "priority" NUMBER] */
static void parse_priority(cursor *p, action *a)
{
    if (cursor_take_mark(p, MARK_COMMA)) {
        cursor_need_word(p, "priority", "for instance: pump 80 % for 2 s, priority 1");
        const node *n = parse_sum(p);
        double number = 0.0;
        if (!node_constant(n, unit_none, &number) || !(number >= 0.0 && number <= 100.0)) {
            cursor_fail(p, n->at, "the greater goes over the lesser", "a priority is a number from 0 to 100");
        }
        a->priority = (uint32_t)number;
    }
}

/* toggle: "toggle" NAME */
static void parse_toggle(cursor *p, action *a)
{
    const token *name = cursor_need_name(p, "an actuator");
    *a = (action){.kind = ACTION_DRIVE, .how = DRIVE_TOGGLE, .at = name->at, .text = name->text};
    a->value = tree_node(p->tree, NODE_NUMBER, name->at);
    a->value->type = (type){TYPE_NUMBER, unit_none, NULL};
}

/* ACTUATOR or PARAM VALUE | ACTUATOR VALUE for TIME | ACTUATOR AMOUNT more, or less */
static void parse_amount(cursor *p, action *a)
{
    a->value = parse_chain(p);
    const bool less = cursor_take_word(p, "less");
    if (less) {
        a->value = node_negative(p, a->value);
    }
    if (less || cursor_take_word(p, "more")) {
        a->how = DRIVE_STEP;
    } else if (cursor_take_word(p, "for")) {
        a->duration = parse_sum(p);
        parse_repeats(p, a);
        parse_priority(p, a);
    }
}

/* begin: "begin" NAME ["anew"] */
static void parse_begin(cursor *p, action *a)
{
    const token *name = cursor_need_name(p, "a sequence");
    *a = (action){.kind = ACTION_BEGIN, .at = name->at, .text = name->text};
    a->anew = cursor_take_word(p, "anew");
}

/* finish: "end" NAME */
static void parse_finish(cursor *p, action *a)
{
    const token *name = cursor_need_name(p, "a sequence");
    *a = (action){.kind = ACTION_FINISH, .at = name->at, .text = name->text};
}

/* give: "cue" NAME */
static void parse_give(cursor *p, action *a)
{
    const token *name = cursor_need_name(p, "a cue");
    *a = (action){.kind = ACTION_STATE, .at = name->at, .text = name->text};
}

/* relearn: "relearn" NAME */
static void parse_relearn(cursor *p, action *a)
{
    const token *name = cursor_need_name(p, "a signal");
    *a = (action){.kind = ACTION_RELEARN, .at = name->at, .text = name->text};
}

static void (*const parse_worded[ACTION_WORDS])(cursor *p, action *a) = {
    [ACTION_ID_MARK] = parse_mark,   [ACTION_ID_RELEARN] = parse_relearn, [ACTION_ID_TOGGLE] = parse_toggle,
    [ACTION_ID_BEGIN] = parse_begin, [ACTION_ID_END] = parse_finish,      [ACTION_ID_CUE] = parse_give,
};

/* An action begins with a word of its own, or with the name of what is driven or set. The cursor stands behind it. */
action parse_action(cursor *p, const token *first)
{
    action a = {.kind = ACTION_DRIVE, .at = first->at, .text = first->text};
    for (uint32_t i = 0; i < ACTION_WORDS; i++) {
        if (parse_worded[i] && token_is_word(first, action_words[i].word)) {
            parse_worded[i](p, &a);
            return a;
        }
    }
    if (cursor_now(p)->kind == TOKEN_STRING) {
        const char *foreign = rgp_word_elsewhere(first->text);
        cursor_fail(p, first->at, foreign ? foreign : "a text goes into the recording: mark \"full\"",
                    "'%s' takes no text", first->text);
    }
    parse_amount(p, &a);
    return a;
}

/* line: "holdoff" sum | action */
void parse_body_line(cursor *p, rule *r)
{
    const token *first = cursor_need_name(p, "an action");
    if (token_is_word(first, action_words[ACTION_ID_HOLDOFF].word)) {
        if (r->holdoff) {
            cursor_fail(p, first->at, NULL, "this rule has a holdoff already");
        }
        r->holdoff = parse_sum(p);
        cursor_need_end(p);
        return;
    }
    if (r->actions >= ACTIONS_MAX) {
        cursor_fail(p, first->at, NULL, "too many actions in one rule (limit %u)", ACTIONS_MAX);
    }
    for (uint32_t i = 0; i < STEP_ID_END; i++) {
        if (token_is_word(first, step_words[i].word)) {
            cursor_fail(p, first->at, "put it below a 'sequence', and let this rule begin that",
                        "'%s' is a step of a sequence", first->text);
        }
    }
    const action a = parse_action(p, first);
    if (a.kind == ACTION_DRIVE && !a.duration && cursor_now(p)->kind == TOKEN_NUMBER) {
        cursor_fail(p, cursor_now(p)->at, "for instance: lamp on for 3 s", "'for' is missing before the time");
    }
    cursor_need_end(p);
    *ARENA_PUSH(p->tree->arena, r->action, r->actions, r->actions_room) = a;
}

/* rule: ("on" | "while") condition */
static void parse_rule(cursor *p, bool repeats)
{
    if (p->tree->rules >= RULES_MAX) {
        cursor_fail(p, cursor_now(p)->at, NULL, "too many rules (limit %u)", RULES_MAX);
    }
    rule *r = ARENA_PUSH(p->tree->arena, p->tree->rule, p->tree->rules, p->tree->rules_room);
    *r = (rule){.at = p->at[-1].at, .repeats = repeats};
    r->trigger = repeats ? parse_condition(p) : node_event(p, parse_condition(p));
    if (token_is_mark(cursor_now(p), MARK_COMMA)) {
        cursor_fail(p, cursor_now(p)->at, "write 'and' or 'or' between conditions", "',' was not expected here");
    }
    r->at.end = p->at[-1].at.end;
}

void parse_on(cursor *p)
{
    parse_rule(p, false);
}

void parse_while(cursor *p)
{
    parse_rule(p, true);
}

/* The value of a switch is a name: "on" is that it is not above off. */
static void parse_guard_limit(cursor *p, guard *g)
{
    if (cursor_take_word(p, "above") || cursor_take_word(p, "below")) {
        g->side = token_is_word(&p->at[-1], "above") ? RGP_GUARD_ABOVE : RGP_GUARD_BELOW;
        g->limit = parse_sum(p);
        return;
    }
    const bool on = cursor_take_word(p, "on");
    if (!on && !cursor_take_word(p, "off")) {
        cursor_fail_expected(p, "'above', 'below', 'on', 'off', 'driven', 'with' or 'stalled'",
                             "for instance: never bridge above 0 while top is on");
    }
    g->side = on ? RGP_GUARD_ABOVE : RGP_GUARD_BELOW;
    g->named = true;
    g->limit = tree_node(p->tree, NODE_NUMBER, p->at[-1].at);
    g->limit->type = (type){TYPE_NUMBER, unit_none, NULL};
    g->limit->number = on ? 0.0 : 1.0;
}

/* ACTUATOR stalled, SIGNAL moves AMOUNT in TIME */
static void parse_stall(cursor *p, const guard *g)
{
    static const char advice[] = "for instance: never span stalled, place moves 2 mm in 1 s";
    stall made = {.at = g->at, .name = g->name, .name_at = g->name_at};
    cursor_need_mark(p, MARK_COMMA, advice);
    made.value = parse_sum(p);
    cursor_need_word(p, "moves", advice);
    made.amount = parse_sum(p);
    cursor_need_word(p, "in", advice);
    made.time = parse_sum(p);
    made.at.end = p->at[-1].at.end;
    *ARENA_PUSH(p->tree->arena, p->tree->stall, p->tree->stalls, p->tree->stalls_room) = made;
}

/* guard: "never" (NAME | "anything") (limit | "on" | "off" | "driven" | nothing) "while" condition | "never" NAME
 * "with" NAME | "never" NAME stall */
void parse_never(cursor *p)
{
    if (p->tree->guards >= RULES_MAX || p->tree->stalls >= RULES_MAX) {
        cursor_fail(p, cursor_now(p)->at, NULL, "too many guards (limit %u)", RULES_MAX);
    }
    guard g = {.at = p->at[-1].at, .side = RGP_GUARD_REST};
    const token *name = cursor_need_name(p, "an actuator, or 'anything'");
    const bool all = token_is_word(name, "anything");
    if (!all) {
        g.name = name->text;
        g.name_at = name->at;
    }
    if (!all && cursor_take_word(p, "stalled")) {
        parse_stall(p, &g);
        return;
    }
    if (!all && cursor_take_word(p, "with")) {
        const token *other = cursor_need_name(p, "another actuator");
        g.side = RGP_GUARD_WITH;
        g.other_name = other->text;
        g.other_at = other->at;
    } else {
        if (token_is_word(cursor_now(p), "while") && !all) {
            cursor_fail(p, cursor_now(p)->at,
                        arena_print(p->tree->arena, "write 'never %s driven while', or 'never %s above VALUE while'",
                                    name->text, name->text),
                        "this does not say what '%s' must never do", name->text);
        }
        if (!all && !cursor_take_word(p, "driven")) {
            parse_guard_limit(p, &g);
        }
        cursor_need_word(p, "while", "for instance: never bridge above 0 while top is on");
        g.condition = parse_condition(p);
    }
    g.at.end = p->at[-1].at.end;
    *ARENA_PUSH(p->tree->arena, p->tree->guard, p->tree->guards, p->tree->guards_room) = g;
}

/* stop: "stop" "while" condition ["until" condition] */
void parse_stop(cursor *p)
{
    stop s = {.at = p->at[-1].at};
    if (p->tree->stops >= RULES_MAX) {
        cursor_fail(p, s.at, NULL, "too many stops (limit %u)", RULES_MAX);
    }
    cursor_need_word(p, "while", "for instance: stop while button is on");
    s.condition = parse_condition(p);
    if (cursor_take_word(p, "until")) {
        s.release = parse_condition(p);
    }
    s.at.end = p->at[-1].at.end;
    *ARENA_PUSH(p->tree->arena, p->tree->stop, p->tree->stops, p->tree->stops_room) = s;
}

/* keep: "keep" NAME {"," NAME} */
void parse_keep(cursor *p)
{
    do {
        const token *name = cursor_need_name(p, "a signal");
        if (p->tree->keeps >= RULES_MAX) {
            cursor_fail(p, name->at, NULL, "too many signals are kept (limit %u)", RULES_MAX);
        }
        *ARENA_PUSH(p->tree->arena, p->tree->keep, p->tree->keeps, p->tree->keeps_room) =
            (keep){.at = name->at, .name = name->text};
    } while (cursor_take_mark(p, MARK_COMMA));
}

/* drive: "drive" NAME "=" condition */
void parse_drive(cursor *p)
{
    const token *name = cursor_need_name(p, "an actuator");
    if (p->tree->follows >= RULES_MAX) {
        cursor_fail(p, name->at, NULL, "too many drives (limit %u)", RULES_MAX);
    }
    cursor_need_mark(p, MARK_EQUALS, "for instance: drive pump = (5 cm - depth) * 20 %/cm");
    node *value = parse_condition(p);
    follow *f = ARENA_PUSH(p->tree->arena, p->tree->follow, p->tree->follows, p->tree->follows_room);
    *f = (follow){.at = name->at, .name = name->text, .value = value};
}

/* hookup: "hookup" PORT */
void parse_hookup(cursor *p)
{
    const token *port = cursor_next(p);
    if (port->kind != TOKEN_WORD) {
        cursor_fail(p, port->at, "for instance: hookup sim", "a hook-up needs the name of a port");
    }
    *ARENA_PUSH(p->tree->arena, p->tree->hookup, p->tree->hookups, p->tree->hookups_room) = (hookup_text){.port = port};
}
