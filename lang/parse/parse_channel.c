/* Statements that declare: the rig, units, channels, parameters, signals and bands. */
#include "parse.h"

#include "image/ops.h"
#include "rigpulse/image.h"

#include <stdio.h>
#include <string.h>

symbol *parse_new_symbol(cursor *p, symbol_kind kind, const token *name)
{
    tree *t = p->tree;
    if (token_is_mark(cursor_now(p), MARK_MINUS) && cursor_now(p)->glued && cursor_behind(p)->kind == TOKEN_WORD) {
        tree_refuse(t, name->text);
        cursor_fail(p, (text_range){name->at.start, cursor_behind(p)->at.end},
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
void parse_rig(cursor *p)
{
    const token *name = cursor_need_name(p, "the rig's name");
    p->tree->name = name->text;
}

/* tick: "tick" TIME */
void parse_tick(cursor *p)
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
void parse_unit(cursor *p)
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
    const char *near = t->kind == TOKEN_WORD ? rgp_nearest_word(t->text, kinds, sizeof kinds / sizeof *kinds) : NULL;
    unit known;
    if (near && !unit_find(&p->tree->units, t->text, &known)) {
        cursor_fail(p, t->at, arena_print(p->tree->arena, "did you mean '%s'?", near), "'%s' is no known unit",
                    t->text);
    }
    return cursor_need_unit(p);
}

/* sensor: "sensor" NAME ("switch" | UNIT range) {"," option} | "sensor" NAME "names" NAME {"," NAME} */
void parse_sensor(cursor *p)
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
void parse_actuator(cursor *p)
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
void parse_param(cursor *p)
{
    symbol *s = parse_new_symbol(p, SYMBOL_PARAM, cursor_need_name(p, "the parameter's name"));
    cursor_need_mark(p, MARK_EQUALS, "for instance: param shallow = 3 cm in 1..6 cm");
    s->value = parse_sum(p);
    cursor_need_word(p, "in", "say its range, for instance: in 1..6 cm");
    parse_range(p, s);
}

/* signal: "signal" NAME "=" condition */
void parse_signal(cursor *p)
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
void parse_bands(cursor *p)
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
