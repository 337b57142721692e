/* The hook-up: what the channels are connected to, held against the tool's lists of what there is. Three
 * kinds of lines:
 *
 *   KIND NAME: settings, INPUT by ACTUATOR               a mechanism
 *   SENSOR VERB ...: settings                            what a sensor reads
 *   at TIME WHOM DISTURBANCE [AMOUNT] [for TIME]         something that happens to it */
#include "hookup.h"

#include <string.h>

#define ITEMS_MAX 200u

typedef struct hookup {
    tree *t;
    const rgp_catalog *catalog;
    unsigned char *tried; /* by a sensor's place: it has a line, sound or not */
    rgp_mechanism_item *mechanism;
    rgp_sensor_item *sensor;
    rgp_disturbance_item *disturbance;
    unsigned mechanisms, mechanisms_room, sensors, sensors_room, disturbances, disturbances_room;
} hookup;

static void need_room(cursor *p, uint32_t count)
{
    if (count >= ITEMS_MAX) {
        cursor_fail(p, cursor_now(p)->at, NULL, "too many lines of this kind (limit %u)", ITEMS_MAX);
    }
}

/* "by ACTUATOR [reversed]": in the input's unit; a switch that is on drives with 100 %. */
static void parse_input(cursor *p, rgp_mechanism_item *made, uint32_t input)
{
    const symbol *s = hookup_need_channel(p, SYMBOL_ACTUATOR, "an actuator");
    const text_range at = p->at[-1].at;
    double gain = 1.0, offset = 0.0;
    const unit wanted = hookup_catalog_unit(p, made->kind->input[input].unit);
    if (s->type.kind == TYPE_NAMED) {
        gain = unit_same_kind(wanted, unit_percent) ? 100.0 / s->greatest : 1.0;
    } else if (!unit_same_kind(s->type.unit, wanted)) {
        cursor_fail(p, at, NULL, "'%s' is driven in %s, but '%s' needs %s", s->name, s->type.unit.text,
                    made->kind->input[input].word, unit_describe(&p->tree->units, wanted));
    } else {
        unit_conversion(s->type.unit, wanted, &gain, &offset);
    }
    if (cursor_take_word(p, "reversed")) { /* as an inverted actuator is wired */
        offset += gain * (s->least + s->greatest);
        gain = -gain;
    }
    made->actuator[input] = (int32_t)s->index;
    made->gain[input] = gain;
    made->offset[input] = offset;
}

static void parse_mechanism(cursor *p, hookup *h, const rgp_mechanism_kind *kind)
{
    need_room(p, h->mechanisms);
    rgp_mechanism_item m = {.kind = kind, .unit = "", .line = report_line(h->t->report, p->at->at.start)};
    cursor_next(p);
    const token *name = cursor_need_name(p, "the mechanism's name");
    for (unsigned i = 0; i < h->mechanisms; i++) {
        if (strcmp(h->mechanism[i].name, name->text) == 0) {
            cursor_fail(p, name->at, "choose another name", "there are two mechanisms '%s'", name->text);
        }
    }
    m.name = name->text;
    hookup_default_settings(kind->setting, m.value);
    memset(m.actuator, -1, sizeof m.actuator);
    rgp_mechanism_item *made = ARENA_PUSH(h->t->arena, h->mechanism, h->mechanisms, h->mechanisms_room);
    *made = m; /* before its settings are read, so that what sees it is no error of its own */
    if (cursor_take_mark(p, MARK_COLON)) {
        do {
            const int32_t input = hookup_find_terminal(kind->input, cursor_now(p));
            if (input >= 0) {
                cursor_next(p);
                cursor_need_word(p, "by", "an input is written 'WORD by ACTUATOR'");
                parse_input(p, made, (uint32_t)input);
            } else {
                hookup_parse_setting(p, kind->setting, kind->input, made, made->value);
            }
        } while (cursor_take_mark(p, MARK_COMMA));
    }
    cursor_need_end(p);
}

static void parse_point(cursor *p, rgp_sensor_item *s, rgp_mechanism_item *of, const char *unit_text)
{
    const token *first = cursor_now(p);
    if (s->points >= RGP_SENSOR_POINTS_MAX) {
        cursor_fail(p, first->at, NULL, "too many points (limit %d)", RGP_SENSOR_POINTS_MAX);
    }
    const double raw = hookup_need_quantity(p, "counts", "a raw reading");
    cursor_need_word(p, "at", "points are written RAW at QUANTITY");
    const double seen = hookup_need_quantity(p, hookup_unit_of(p, unit_text, of), "what is seen");
    if (s->points > 0 && !(seen > s->seen[s->points - 1])) {
        cursor_fail(p, first->at, "write the points from low to high", "the quantities must rise");
    }
    s->raw[s->points] = raw;
    s->seen[s->points++] = seen;
}

/* Returns the unit of what is seen. */
static const char *victim_name(void *self, uint32_t i)
{
    const hookup *h = self;
    if (i < h->mechanisms) {
        return h->mechanism[i].name;
    }
    return i < h->mechanisms + h->sensors ? tree_channel(h->t, SYMBOL_SENSOR, h->sensor[i - h->mechanisms].sensor)->name
                                          : "clock";
}

static const char *parse_seen(cursor *p, hookup *h, rgp_sensor_item *s)
{
    const token *name = cursor_need_name(p, "a mechanism");
    unsigned i = 0;
    while (i < h->mechanisms && strcmp(h->mechanism[i].name, name->text) != 0) {
        i++;
    }
    if (i == h->mechanisms) {
        cursor_pass_refused(p, name);
        tree_refuse(p->tree, name->text);
        const char *near = report_suggest(h->t->report, name->text, victim_name, h, h->mechanisms);
        cursor_fail(p, name->at, near ? near : "write its line above this one", "there is no mechanism '%s'",
                    name->text);
    }
    s->mechanism = i;
    s->output = hookup_need_terminal(p, h->mechanism[i].kind->output, "quantity of this mechanism");
    return h->mechanism[i].kind->output[s->output].unit;
}

/* Returns the unit of the quantities in its points; NULL when it has no points. */
static const char *parse_source(cursor *p, hookup *h, rgp_sensor_item *s)
{
    switch (s->kind->source) {
    case RGP_SOURCE_MECHANISM:
        return parse_seen(p, h, s);
    case RGP_SOURCE_FILE:
        if (cursor_now(p)->kind != TOKEN_STRING) {
            cursor_fail_expected(p, "a file name in quotes", NULL);
        }
        s->path = cursor_next(p)->text;
        if (cursor_now(p)->kind == TOKEN_STRING) {
            s->column = cursor_next(p)->text;
        }
        break;
    case RGP_SOURCE_CONSTANT:
        s->constant = hookup_need_quantity(p, "counts", "a raw reading");
        break;
    case RGP_SOURCE_CLOCK:
        s->constant = hookup_need_quantity(p, "s", "the time of day");
        if (s->constant < 0.0 || s->constant >= 86400.0) {
            cursor_fail(p, p->at[-1].at, "for instance: clock tells 6 h 55 min", "a day has 24 hours");
        }
        break;
    }
    return NULL;
}

static const char *mechanism_name(void *self, uint32_t i)
{
    const rgp_catalog *catalog = self;
    return catalog->mechanism[i]->word;
}

static const char *sensor_kind_name(void *self, uint32_t i)
{
    const rgp_catalog *catalog = self;
    return catalog->sensor[i]->word;
}

static const char *suggest_line(cursor *p, const hookup *h, const char *wrong)
{
    uint32_t kinds = 0;
    while (h->catalog->mechanism[kinds]) {
        kinds++;
    }
    const char *near = report_suggest(p->tree->report, wrong, mechanism_name, (void *)h->catalog, kinds);
    return near ? near : tree_suggest(p->tree, wrong);
}

static void parse_connection(cursor *p, hookup *h)
{
    need_room(p, h->sensors);
    const token *first = cursor_now(p);
    rgp_sensor_item s = {.line = report_line(h->t->report, first->at.start)};
    if (first->kind == TOKEN_WORD && !tree_find(p->tree, first->text)) {
        cursor_pass_refused(p, first);
        if (cursor_behind(p)->kind == TOKEN_WORD) { /* perhaps a mechanism's name, behind a mistyped kind */
            tree_refuse(p->tree, cursor_behind(p)->text);
        }
        cursor_pass_missing(p, first);
        cursor_fail(p, first->at, suggest_line(p, h, first->text),
                    "'%s' is neither a sensor of this rig nor a kind of mechanism", first->text);
    }
    symbol *sensor = hookup_need_channel(p, SYMBOL_SENSOR, "a sensor");
    h->tried[sensor->place] = 1;
    s.sensor = sensor->index;
    for (unsigned i = 0; i < h->sensors; i++) {
        if (h->sensor[i].sensor == s.sensor) {
            cursor_fail(p, first->at, NULL, "'%s' is connected twice", sensor->name);
        }
    }
    const token *verb = cursor_need_name(p, "'sees', 'plays', 'reads' or 'tells'");
    for (uint32_t i = 0; h->catalog->sensor[i]; i++) {
        if (token_is_word(verb, h->catalog->sensor[i]->word)) {
            s.kind = h->catalog->sensor[i];
        }
    }
    if (!s.kind) {
        uint32_t kinds = 0;
        while (h->catalog->sensor[kinds]) {
            kinds++;
        }
        cursor_fail(p, verb->at,
                    report_choose(p->tree->report, verb->text, sensor_kind_name, (void *)h->catalog, kinds),
                    "a sensor does not '%s'", verb->text);
    }
    const char *seen_unit = parse_source(p, h, &s);
    hookup_default_settings(s.kind->setting, s.value);
    if (cursor_take_mark(p, MARK_COLON)) {
        do {
            const bool number = cursor_now(p)->kind == TOKEN_NUMBER || token_is_mark(cursor_now(p), MARK_MINUS);
            if (number && seen_unit) {
                parse_point(p, &s, &h->mechanism[s.mechanism], seen_unit);
            } else {
                hookup_parse_setting(p, s.kind->setting, s.kind->disturbance, NULL, s.value);
            }
        } while (cursor_take_mark(p, MARK_COMMA));
    }
    cursor_need_end(p);
    if (s.points == 1) {
        cursor_fail(p, first->at, "for instance: 312 at 0 cm, 3020 at 12 cm", "one point makes no line");
    }
    *ARENA_PUSH(h->t->arena, h->sensor, h->sensors, h->sensors_room) = s;
}

/* The things that something can happen to: mechanisms, connected sensors, and the clock. */
static const rgp_terminal *find_victim(cursor *p, const hookup *h, rgp_disturbance_item *d)
{
    const token *name = cursor_need_name(p, "what it happens to");
    d->mechanism = d->sensor = -1;
    for (unsigned i = 0; i < h->mechanisms; i++) {
        if (strcmp(h->mechanism[i].name, name->text) == 0) {
            d->mechanism = (int32_t)i;
            return h->mechanism[i].kind->disturbance;
        }
    }
    for (unsigned i = 0; i < h->sensors; i++) {
        const symbol *s = tree_find(h->t, name->text);
        if (s && s->kind == SYMBOL_SENSOR && s->index == h->sensor[i].sensor) {
            d->sensor = (int32_t)s->index;
            return h->sensor[i].kind->disturbance;
        }
    }
    if (strcmp(name->text, "clock") == 0) {
        return h->catalog->clock;
    }
    cursor_pass_refused(p, name);
    const symbol *tried = tree_find(h->t, name->text);
    if (tried && h->tried[tried->place]) { /* what is wrong with its line has been said there */
        h->t->report->complaints++;
        longjmp(p->recover, 1);
    }
    tree_refuse(p->tree, name->text);
    const char *near =
        report_suggest(h->t->report, name->text, victim_name, (void *)h, h->mechanisms + h->sensors + 1u);
    cursor_fail(p, name->at, near ? near : "write its line above this one",
                "there is no mechanism or connected sensor '%s'", name->text);
}

static void parse_disturbance(cursor *p, hookup *h)
{
    need_room(p, h->disturbances);
    rgp_disturbance_item d = {.line = report_line(h->t->report, p->at->at.start)};
    cursor_next(p);
    d.at_seconds = hookup_need_quantity(p, "s", "the time");
    const rgp_terminal *words = find_victim(p, h, &d);
    d.which = hookup_need_terminal(p, words, "disturbance of it");
    if (words[d.which].unit) {
        rgp_mechanism_item *of = d.mechanism >= 0 ? &h->mechanism[d.mechanism] : NULL;
        d.amount = hookup_need_quantity(p, hookup_unit_of(p, words[d.which].unit, of), "the amount");
    }
    if (token_is_word(cursor_now(p), "for")) {
        const token *lasting = cursor_next(p);
        if (!words[d.which].lasts) {
            report_warning(h->t->report, lasting->at,
                           "take 'for' out: it happens at once, or until another disturbance ends it",
                           "'%s' has no duration: this is not heeded", words[d.which].word);
        }
        d.for_seconds = hookup_need_quantity(p, "s", "how long");
    }
    const bool of_clock = d.mechanism < 0 && d.sensor < 0;
    if (d.at_seconds < 0.0 || d.for_seconds < 0.0 || (of_clock && d.amount < 0.0)) {
        cursor_fail(p, p->at[-1].at, NULL, of_clock ? "a clock never goes back" : "times are not negative");
    }
    cursor_need_end(p);
    *ARENA_PUSH(h->t->arena, h->disturbance, h->disturbances, h->disturbances_room) = d;
}

static void parse_line(cursor *p, hookup *h)
{
    const token *first = cursor_now(p);
    if (token_is_word(first, "at")) {
        parse_disturbance(p, h);
        return;
    }
    for (uint32_t i = 0; h->catalog->mechanism[i]; i++) {
        if (token_is_word(first, h->catalog->mechanism[i]->word)) {
            parse_mechanism(p, h, h->catalog->mechanism[i]);
            return;
        }
    }
    parse_connection(p, h);
}

static void check_line(hookup *h, token *first)
{
    cursor p = {.tree = h->t, .at = first};
    cursor_bound(&p, first->indent);
    if (setjmp(p.recover) == 0) {
        parse_line(&p, h);
    }
}

const rgp_hookup *lang_check_hookup(tree *t, const rgp_catalog *catalog)
{
    if (!t->hookup_port) {
        return NULL;
    }
    hookup h = {.t = t, .catalog = catalog, .tried = arena_get(t->arena, t->symbols + 1u)};
    const token *port = t->hookup_port;
    if (strcmp(port->text, catalog->port) != 0) {
        report_error(t->report, port->at, arena_print(t->arena, "there is: %s", catalog->port), "there is no port '%s'",
                     port->text);
    }
    for (unsigned i = 0; i < t->hookups; i++) {
        check_line(&h, t->hookup[i]);
    }
    rgp_hookup *made = arena_get(t->arena, sizeof *made);
    *made = (rgp_hookup){t->hookup_port->text, h.mechanism, h.sensor,      h.disturbance,
                         h.mechanisms,         h.sensors,   h.disturbances};
    return made;
}
