/* Tokens -> tree, by recursive descent. A mistake is reported and ends its line (or, in a rule, its
 * body line); the rest of the file is read all the same. */
#include "parse.h"

#include "image/ops.h"
#include "rigpulse/image.h"

#include <stdio.h>
#include <string.h>

/* ---- statements ---------------------------------------------------------------------------------- */

symbol *parse_new_symbol(cursor *p, symbol_kind kind, const token *name)
{
    tree *t = p->tree;
    if (token_is_mark(cursor_now(p), MARK_MINUS) && cursor_now(p)->glued && cursor_behind(p)->kind == TOKEN_WORD) {
        tree_refuse(t, name->text);
        cursor_fail(p, (rp_span){name->at.start, cursor_behind(p)->at.end},
                    arena_print(t->arena, "write %s_%s", name->text, cursor_behind(p)->text), "a name has no hyphen");
    }
    if (word_is_reserved(name->text)) {
        tree_refuse(t, name->text);
        cursor_fail(p, name->at, "choose another name", "'%s' is a word of the language", name->text);
    }
    const symbol *other = tree_find(t, name->text);
    if (other) {
        cursor_fail(p, name->at, "choose another name", "'%s' is already declared on line %u", name->text,
                    report_line(t->report, other->at.start));
    }
    if (t->symbols >= SYMBOLS_MAX) {
        cursor_fail(p, name->at, NULL, "too many names (limit %u)", SYMBOLS_MAX);
    }
    symbol *s = arena_get(t->arena, sizeof *s);
    s->kind = kind;
    s->name = name->text;
    s->at = name->at;
    s->type.unit = unit_none;
    tree_add(t, s);
    return s;
}

/* LOW..HIGH; a unit written behind the high end holds for a low end without one. */
static void parse_range(cursor *p, symbol *s)
{
    s->low = parse_sum(p);
    cursor_need_mark(p, MARK_RANGE, "a range is written LOW..HIGH");
    s->high = parse_sum(p);
    if (s->low->kind == NODE_NUMBER && unit_is_bare(s->low->type.unit)) {
        s->low->type.unit = s->high->type.unit;
    }
}

/* rig: "rig" NAME */
static void parse_rig(cursor *p)
{
    const token *name = cursor_need_name(p, "the rig's name");
    p->tree->name = name->text;
}

/* tick: "tick" TIME */
static void parse_tick(cursor *p)
{
    node *n = parse_sum(p);
    double seconds = 0.0;
    if (!node_constant(n, unit_seconds, &seconds)) {
        cursor_fail(p, n->at, "for instance: tick 20 ms", "the tick must be a time");
    }
    if (!(seconds >= 50e-6 && seconds <= 60.0)) {
        cursor_fail(p, n->at, "for instance: tick 20 ms", "the tick must be from 50 us to 60 s");
    }
    p->tree->tick_us = (uint32_t)(seconds * 1e6 + 0.5);
}

/* unit: "unit" NAME ["=" NUMBER UNIT] */
static void parse_unit(cursor *p)
{
    unit_set *set = &p->tree->units;
    const token *name = cursor_need_name(p, "the unit's name");
    unit found;
    if (unit_find(set, name->text, &found)) {
        cursor_fail(p, name->at, "choose another name", "the unit '%s' is known already", name->text);
    }
    if (set->count >= UNIT_DECLARED_MAX) {
        cursor_fail(p, name->at, NULL, "too many units (limit %u)", UNIT_DECLARED_MAX);
    }
    declared_unit *d = &set->declared[set->count];
    *d = (declared_unit){name->text, {.text = name->text, .scale = 1.0}};
    if (cursor_take_mark(p, MARK_EQUALS)) {
        if (cursor_now(p)->kind != TOKEN_NUMBER) {
            cursor_fail_expected(p, "a number with a unit", "for instance: unit knot = 0.5144 m/s");
        }
        const node *n = cursor_number(p);
        if (!(n->number > 0.0) || n->type.unit.point || unit_is_bare(n->type.unit)) {
            cursor_fail(p, n->at, "for instance: unit knot = 0.5144 m/s",
                        "a unit must be a positive amount of another unit");
        }
        d->is = n->type.unit;
        d->is.scale *= n->number;
        d->is.text = name->text;
    } else if (set->own_bases < UNIT_OWN_MAX) {
        d->is.power[UNIT_BASES + set->own_bases++] = 1;
    } else {
        cursor_fail(p, name->at, NULL, "too many kinds of units of one's own (limit %u)", UNIT_OWN_MAX);
    }
    set->count++;
}

static void name_switch(symbol *s)
{
    s->is_switch = true;
    s->name_of[0].name = "off";
    s->name_of[1].name = "on";
    s->names = 2;
    s->type = (type){TYPE_NAMED, unit_none, s};
    s->greatest = 1.0;
}

/* "'pinned', 'stuck' or 'jump'": the words of a table whose rows begin as word_row does. */
static const char *words_told(tree *t, const void *rows, size_t size, uint32_t count)
{
    const char *all = "";
    for (uint32_t i = 0; i < count; i++) {
        word_row row;
        memcpy(&row, (const char *)rows + i * size, sizeof row);
        all = arena_print(t->arena, "%s%s'%s'", all, i == 0 ? "" : i + 1 == count ? " or " : ", ", row.word);
    }
    return all;
}

/* The value behind an option's word goes to this field of the symbol; `pinned` stands alone. */
static const size_t sensor_option_at[SENSOR_OPTIONS] = {
    [SENSOR_EVERY] = offsetof(symbol, every), [SENSOR_JUMP] = offsetof(symbol, jump),
    [SENSOR_STUCK] = offsetof(symbol, stuck), [SENSOR_FAULT] = offsetof(symbol, fault),
    [SENSOR_AGAIN] = offsetof(symbol, again),
};

/* The option whose first word comes next, with all its words; SENSOR_OPTIONS: none. */
static sensor_option take_sensor_option(cursor *p, uint32_t possible)
{
    for (uint32_t i = 0; i < possible; i++) {
        char first[16];
        const char *words = sensor_options[i].word, *more = strchr(words, ' ');
        snprintf(first, sizeof first, "%.*s", (int)strcspn(words, " "), words);
        if (cursor_take_word(p, first)) {
            if (more) {
                cursor_need_word(p, more + 1, arena_print(p->tree->arena, "write '%s'", sensor_options[i].form));
            }
            return i;
        }
    }
    return SENSOR_OPTIONS;
}

static void parse_sensor_option(cursor *p, symbol *s)
{
    const uint32_t possible = s->fault ? SENSOR_OPTIONS : SENSOR_AGAIN;
    const token *word = cursor_now(p);
    const sensor_option which = take_sensor_option(p, possible);
    if (which == SENSOR_OPTIONS) {
        cursor_fail_expected(p, words_told(p->tree, sensor_options, sizeof *sensor_options, possible),
                             "for instance: sensor level counts 0..4095, pinned, stuck 2 s");
    }
    node **to = (node **)(void *)((char *)s + sensor_option_at[which]);
    if (which == SENSOR_PINNED ? s->pinned : *to != NULL) {
        cursor_fail(p, word->at, NULL, "'%s' is said twice", word->text);
    }
    if (which == SENSOR_PINNED) {
        s->pinned = true;
    } else {
        *to = parse_sum(p);
    }
}

/* The checks of a sensor's readings: words behind commas. */
static void parse_sensor_options(cursor *p, symbol *s)
{
    while (cursor_take_mark(p, MARK_COMMA)) {
        parse_sensor_option(p, s);
    }
}

/* Names behind commas, up to the words "rest at" of an actuator. */
void parse_names(cursor *p, symbol *s)
{
    s->type = (type){TYPE_NAMED, unit_none, s};
    do {
        const token *name = cursor_need_name(p, "a name");
        uint32_t number;
        if (symbol_part(s, name->text, &number)) {
            cursor_fail(p, name->at, NULL, "there are two names '%s'", name->text);
        }
        if (s->names >= NAMED_MAX) {
            cursor_fail(p, name->at, NULL, "too many names (limit %u)", NAMED_MAX);
        }
        s->name_of[s->names++] = (band_name){.name = name->text, .at = name->at};
    } while (!token_is_word(cursor_behind(p), "rest") && cursor_take_mark(p, MARK_COMMA));
    if (s->names < 2) {
        cursor_fail(p, s->at, "for instance: names red, green, blue", "names need at least two");
    }
    s->greatest = s->names - 1;
}

/* The unit of a sensor's range, where one of two words could stand as well. */
static unit need_sensor_unit(cursor *p)
{
    static const char *const kinds[] = {"switch", "names"};
    const token *t = cursor_now(p);
    const char *near = t->kind == TOKEN_WORD ? rp_nearest_word(t->text, kinds, sizeof kinds / sizeof *kinds) : NULL;
    unit known;
    if (near && !unit_find(&p->tree->units, t->text, &known)) {
        cursor_fail(p, t->at, arena_print(p->tree->arena, "did you mean '%s'?", near), "'%s' is no known unit",
                    t->text);
    }
    return cursor_need_unit(p);
}

/* sensor: "sensor" NAME ("switch" | UNIT range) {"," option} | "sensor" NAME "names" NAME {"," NAME} */
static void parse_sensor(cursor *p)
{
    symbol *s = parse_new_symbol(p, SYMBOL_SENSOR, cursor_need_name(p, "the sensor's name"));
    if (cursor_take_word(p, "names")) {
        parse_names(p, s);
        return;
    }
    if (cursor_take_word(p, "switch")) {
        name_switch(s);
    } else {
        s->type = (type){TYPE_NUMBER, need_sensor_unit(p), NULL};
        parse_range(p, s);
    }
    parse_sensor_options(p, s);
}

/* The value behind a setting's word goes to this field of the symbol; `inverted` stands alone. */
static const size_t actuator_setting_at[ACTUATOR_SETTINGS] = {
    [ACTUATOR_LEAST] = offsetof(symbol, least_power), [ACTUATOR_SLEW] = offsetof(symbol, slew),
    [ACTUATOR_LONGEST] = offsetof(symbol, longest),   [ACTUATOR_DUTY] = offsetof(symbol, duty),
    [ACTUATOR_SETTLE] = offsetof(symbol, settle),     [ACTUATOR_GIVES] = offsetof(symbol, portion),
};

/* The words behind the value of some settings. */
static void parse_setting_tail(cursor *p, symbol *s, actuator_setting which)
{
    if (which == ACTUATOR_DUTY) {
        cursor_need_word(p, "over", "for instance: duty 40 % over 60 s");
        s->window = parse_sum(p);
    } else if (which == ACTUATOR_GIVES) {
        cursor_need_word(p, "in", "for instance: gives 1 portions in 800 ms");
        s->portion_time = parse_sum(p);
        if (cursor_take_word(p, "after")) {
            s->lead = parse_sum(p);
        }
    }
}

static bool has_setting(const symbol *s, uint32_t which)
{
    return !(actuator_words[which].numbers_only && s->type.kind == TYPE_NAMED);
}

static const char *settings_told(cursor *p, const symbol *s)
{
    const char *all = "there are:";
    for (uint32_t i = 0; i < ACTUATOR_SETTINGS; i++) {
        if (has_setting(s, i)) {
            all = arena_print(p->tree->arena, "%s%s %s", all, i > 0 && strchr(all, ' ') != strrchr(all, ' ') ? "," : "",
                              actuator_words[i].form);
        }
    }
    return all;
}

static void parse_actuator_setting(cursor *p, symbol *s)
{
    const token *word = cursor_need_name(p, "a setting");
    for (uint32_t i = 0; i < ACTUATOR_SETTINGS; i++) {
        if (!token_is_word(word, actuator_words[i].word) || !has_setting(s, i)) {
            continue;
        }
        node **to = (node **)(void *)((char *)s + actuator_setting_at[i]);
        if (i == ACTUATOR_INVERTED ? s->inverted : *to != NULL) {
            cursor_fail(p, word->at, NULL, "'%s' is said twice", word->text);
        }
        if (i == ACTUATOR_INVERTED) {
            s->inverted = true;
        } else {
            *to = parse_sum(p);
            parse_setting_tail(p, s, i);
        }
        return;
    }
    cursor_fail(p, word->at, settings_told(p, s), "an actuator has no setting '%s'", word->text);
}

/* actuator: "actuator" NAME ("switch" | "names" NAME {"," NAME} | UNIT range) "," "rest" "at" sum {"," setting} */
static void parse_actuator(cursor *p)
{
    symbol *s = parse_new_symbol(p, SYMBOL_ACTUATOR, cursor_need_name(p, "the actuator's name"));
    static const char advice[] = "say where it rests, for instance: rest at 0";
    unit known;
    if (cursor_take_word(p, "switch")) {
        name_switch(s);
    } else if (cursor_take_word(p, "names")) {
        parse_names(p, s);
    } else if (cursor_now(p)->kind == TOKEN_WORD && unit_find(&p->tree->units, cursor_now(p)->text, &known)) {
        const unit u = cursor_need_unit(p);
        s->type = (type){TYPE_NUMBER, unit_same_kind(u, unit_percent) ? unit_percent : u, NULL};
        parse_range(p, s);
    } else {
        cursor_fail_expected(p, "'percent', a unit, 'switch' or 'names'",
                             "for instance: actuator pump percent 0..100, rest at 0");
    }
    cursor_need_mark(p, MARK_COMMA, advice);
    cursor_need_word(p, "rest", advice);
    cursor_need_word(p, "at", advice);
    s->value = parse_sum(p);
    while (cursor_take_mark(p, MARK_COMMA)) {
        parse_actuator_setting(p, s);
    }
}

/* param: "param" NAME "=" sum "in" range */
static void parse_param(cursor *p)
{
    symbol *s = parse_new_symbol(p, SYMBOL_PARAM, cursor_need_name(p, "the parameter's name"));
    cursor_need_mark(p, MARK_EQUALS, "for instance: param shallow = 3 cm in 1..6 cm");
    s->value = parse_sum(p);
    cursor_need_word(p, "in", "say its range, for instance: in 1..6 cm");
    parse_range(p, s);
}

/* signal: "signal" NAME "=" condition */
static void parse_signal(cursor *p)
{
    symbol *s = parse_new_symbol(p, SYMBOL_SIGNAL, cursor_need_name(p, "the signal's name"));
    cursor_need_mark(p, MARK_EQUALS, "for instance: signal depth = level | smooth 200 ms");
    s->value_at.start = cursor_now(p)->at.start;
    s->value = parse_condition(p);
    s->value_at.end = p->at[-1].at.end;
}

/* band: NAME [("below" | "above") sum] */
static void parse_band(cursor *p, symbol *s)
{
    const token *name = cursor_need_name(p, "the band's name");
    for (uint32_t i = 0; i < s->names; i++) {
        if (strcmp(s->name_of[i].name, name->text) == 0) {
            cursor_fail(p, name->at, NULL, "there are two bands '%s'", name->text);
        }
    }
    if (s->names >= NAMED_MAX) {
        cursor_fail(p, name->at, NULL, "too many bands (limit %u)", NAMED_MAX);
    }
    band_name *band = &s->name_of[s->names++];
    *band = (band_name){.name = name->text, .at = name->at};
    if (token_is_word(cursor_now(p), "below") || token_is_word(cursor_now(p), "above")) {
        band->side = cursor_next(p)->text;
        band->limit = parse_sum(p);
    }
}

/* bands: "bands" NAME "=" chain ":" band {"," band} [";" "margin" sum] */
static void parse_bands(cursor *p)
{
    symbol *s = parse_new_symbol(p, SYMBOL_BANDS, cursor_need_name(p, "a name for the bands"));
    s->type = (type){TYPE_NAMED, unit_none, s};
    cursor_need_mark(p, MARK_EQUALS, "for instance: bands tide = depth: low below 3 cm, high");
    s->value_at.start = cursor_now(p)->at.start;
    s->value = parse_chain(p);
    s->value_at.end = p->at[-1].at.end;
    cursor_need_mark(p, MARK_COLON, "the bands follow after ':'");
    do {
        parse_band(p, s);
    } while (cursor_take_mark(p, MARK_COMMA));
    if (cursor_take_mark(p, MARK_SEMICOLON)) {
        cursor_need_word(p, "margin", "for instance: margin 0.4 cm");
        s->margin = parse_sum(p);
    }
}

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
        a->value = parse_negative(p, a->value);
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
        const char *foreign = rp_word_elsewhere(first->text);
        cursor_fail(p, first->at, foreign ? foreign : "a text goes into the recording: mark \"full\"",
                    "'%s' takes no text", first->text);
    }
    parse_amount(p, &a);
    return a;
}

/* line: "holdoff" sum | action */
static void parse_body_line(cursor *p, rule *r)
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
    r->trigger = repeats ? parse_condition(p) : parse_as_event(p, parse_condition(p));
    if (token_is_mark(cursor_now(p), MARK_COMMA)) {
        cursor_fail(p, cursor_now(p)->at, "write 'and' or 'or' between conditions", "',' was not expected here");
    }
    r->at.end = p->at[-1].at.end;
}

static void parse_on(cursor *p)
{
    parse_rule(p, false);
}

static void parse_while(cursor *p)
{
    parse_rule(p, true);
}

/* The value of a switch is a name: "on" is that it is not above off. */
static void parse_guard_limit(cursor *p, guard *g)
{
    if (cursor_take_word(p, "above") || cursor_take_word(p, "below")) {
        g->side = token_is_word(&p->at[-1], "above") ? RP_GUARD_ABOVE : RP_GUARD_BELOW;
        g->limit = parse_sum(p);
        return;
    }
    const bool on = cursor_take_word(p, "on");
    if (!on && !cursor_take_word(p, "off")) {
        cursor_fail_expected(p, "'above', 'below', 'on', 'off', 'driven', 'with' or 'stalled'",
                             "for instance: never bridge above 0 while top is on");
    }
    g->side = on ? RP_GUARD_ABOVE : RP_GUARD_BELOW;
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
static void parse_never(cursor *p)
{
    if (p->tree->guards >= RULES_MAX || p->tree->stalls >= RULES_MAX) {
        cursor_fail(p, cursor_now(p)->at, NULL, "too many guards (limit %u)", RULES_MAX);
    }
    guard g = {.at = p->at[-1].at, .side = RP_GUARD_REST};
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
        g.side = RP_GUARD_WITH;
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
static void parse_stop(cursor *p)
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
static void parse_keep(cursor *p)
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
static void parse_drive(cursor *p)
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
static void parse_hookup(cursor *p)
{
    token *port = cursor_next(p);
    if (port->kind != TOKEN_WORD) {
        cursor_fail(p, port->at, "for instance: hookup sim", "a hook-up needs the name of a port");
    }
    p->tree->hookup_port = port;
}

static void (*const parse_statement[STATEMENTS])(cursor *) = {
    [STATEMENT_RIG] = parse_rig,           [STATEMENT_TICK] = parse_tick,         [STATEMENT_UNIT] = parse_unit,
    [STATEMENT_SENSOR] = parse_sensor,     [STATEMENT_ACTUATOR] = parse_actuator, [STATEMENT_PARAM] = parse_param,
    [STATEMENT_SIGNAL] = parse_signal,     [STATEMENT_BANDS] = parse_bands,       [STATEMENT_ON] = parse_on,
    [STATEMENT_WHILE] = parse_while,       [STATEMENT_NEVER] = parse_never,       [STATEMENT_DRIVE] = parse_drive,
    [STATEMENT_SEQUENCE] = parse_sequence, [STATEMENT_MODE] = parse_mode,         [STATEMENT_CUE] = parse_cue,
    [STATEMENT_STOP] = parse_stop,         [STATEMENT_KEEP] = parse_keep,         [STATEMENT_LOOP] = parse_loop,
    [STATEMENT_HOOKUP] = parse_hookup,
};

/* ---- lines --------------------------------------------------------------------------------------- */

static const char *statement_name(void *self, uint32_t i)
{
    (void)self;
    return statement_words[i].word;
}

static bool begins_action(const token *t)
{
    for (uint32_t i = 0; i < ACTION_WORDS; i++) {
        if (token_is_word(t, action_words[i].word)) {
            return true;
        }
    }
    return false;
}

static statement_id statement_of(cursor *p)
{
    const token *t = cursor_now(p);
    for (uint32_t i = 0; i < STATEMENTS; i++) {
        if (token_is_word(t, statement_words[i].word)) {
            cursor_next(p);
            return i;
        }
    }
    const symbol *s = t->kind == TOKEN_WORD ? tree_find(p->tree, t->text) : NULL;
    const bool acts = (s && (s->kind == SYMBOL_ACTUATOR || s->kind == SYMBOL_PARAM)) || begins_action(t);
    const char *advice = acts ? "indent it below its rule" : rp_word_elsewhere(t->text);
    if (!acts && cursor_behind(p)->kind == TOKEN_WORD) { /* perhaps the name that it was to declare */
        tree_refuse(p->tree, cursor_behind(p)->text);
    }
    cursor_fail(p, t->at, advice ? advice : report_suggest(p->tree->report, t->text, statement_name, NULL, STATEMENTS),
                "no statement begins with '%s'", t->text);
}

/* The indented lines below a rule or a hook-up, each with the deeper ones that continue it. */
static void parse_lines(cursor *p, rule *of)
{
    const int32_t floor = p->at->indent;
    while (p->at->kind != TOKEN_END && p->at->indent > 0) {
        cursor_bound(p, floor);
        if (setjmp(p->recover) == 0) {
            if (of) {
                parse_body_line(p, of);
            } else {
                *ARENA_PUSH(p->tree->arena, p->tree->hookup, p->tree->hookups, p->tree->hookups_room) = p->at;
            }
        } else if (of) {
            of->broken = true;
        }
        p->at = p->limit;
    }
}

static void parse_actions(cursor *p)
{
    parse_lines(p, &p->tree->rule[p->tree->rules - 1]);
}

static void parse_steps_below(cursor *p)
{
    parse_sequence_body(p, &p->tree->sequence[p->tree->sequences - 1]);
}

static void parse_loop_lines(cursor *p)
{
    parse_loop_body(p, p->tree->loop[p->tree->loops - 1]);
}

static void parse_hookup_lines(cursor *p)
{
    parse_lines(p, NULL);
}

static void skip_lines(cursor *p)
{
    while (p->at->kind != TOKEN_END && p->at->indent != 0) {
        p->at++;
    }
}

/* The readers of the lines below a statement, for one whose first line has made something that they can belong to. */
static void (*const parse_below[])(cursor *) = {
    [BODY_ACTIONS] = parse_actions,
    [BODY_STEPS] = parse_steps_below,
    [BODY_LOOP_LINES] = parse_loop_lines,
    [BODY_HOOKUP_LINES] = parse_hookup_lines,
};

static statement_body body_of(const token *first)
{
    for (uint32_t i = 0; i < STATEMENTS; i++) {
        if (token_is_word(first, statement_words[i].word)) {
            return statement_words[i].body;
        }
    }
    return BODY_NONE;
}

static uint32_t bodies_made(const tree *t)
{
    return t->rules + t->sequences + t->loops;
}

/* A line that begins no statement may have been meant to stand below the rule before it. */
static void break_last_rule(tree *t)
{
    if (t->rules > 0) {
        t->rule[t->rules - 1].broken = true;
    }
}

static void refuse_second(cursor *p, const statement_at *is)
{
    const char *once = statement_words[is->id].once;
    for (const statement_at *other = p->tree->statement; once && other < is; other++) {
        if (other->id == is->id) {
            cursor_fail(p, is->at,
                        arena_print(p->tree->arena, "it is on line %u", report_line(p->tree->report, other->at.start)),
                        "%s", once);
        }
    }
}

static void parse_top(cursor *p)
{
    const int32_t anywhere = INT32_MAX;
    const statement_body body = body_of(p->at);
    const uint32_t before = bodies_made(p->tree);
    const unsigned symbols = p->tree->symbols;
    cursor_bound(p, body == BODY_NONE ? 0 : anywhere);
    statement_at *is = ARENA_PUSH(p->tree->arena, p->tree->statement, p->tree->statements, p->tree->statements_room);
    *is = (statement_at){STATEMENTS, p->at->at};
    if (setjmp(p->recover) == 0) {
        if (p->at->indent > 0) {
            cursor_fail(p, p->at->at, "begin it in the first column",
                        "this line is indented, but there is nothing above it");
        }
        is->id = statement_of(p);
        refuse_second(p, is);
        parse_statement[is->id](p);
        cursor_need_end(p);
    } else if (is->id == STATEMENTS) {
        break_last_rule(p->tree);
    } else if (bodies_made(p->tree) == before) {
        tree_take_back(p->tree, symbols);
    }
    p->at = p->limit;
    if (body == BODY_HOOKUP_LINES || (body != BODY_NONE && bodies_made(p->tree) > before)) {
        parse_below[body](p);
    } else if (body != BODY_NONE) {
        skip_lines(p);
    }
    is->at.end = p->at[-1].at.end;
}

void lang_parse(tree *t, token *tokens)
{
    cursor p = {.tree = t, .at = tokens};
    while (p.at->kind != TOKEN_END) {
        parse_top(&p);
    }
}
