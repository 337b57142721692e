/* Lines of a hook-up that connect a channel: `SENSOR VERB ...: settings`, and on a port whose actuators have lines of
 * their own `ACTUATOR VERB "TEXT" to DEVICE: settings`. */
#include "hookup.h"

#include <math.h>
#include <string.h>

#define COLUMNS_MAX 1000.0

static void parse_point(cursor *p, rgp_sensor_item *s, rgp_mechanism_item *of, const char *unit_text)
{
    const token *first = cursor_now(p);
    if (s->points >= RGP_SENSOR_POINTS_MAX) {
        cursor_fail(p, first->at, NULL, "too many points (limit %d)", RGP_SENSOR_POINTS_MAX);
    }
    const double raw = hookup_need_quantity(p, "counts", "a raw reading", NULL);
    cursor_need_word(p, "at", "points are written RAW at QUANTITY");
    const double seen = hookup_need_quantity(p, hookup_unit_of(p, unit_text, of), "what is seen", NULL);
    if (s->points > 0 && !(seen > s->seen[s->points - 1])) {
        cursor_fail(p, first->at, "write the points from low to high", "the quantities must rise");
    }
    s->raw[s->points] = raw;
    s->seen[s->points++] = seen;
}

static const char *mechanism_item_name(void *self, uint32_t i)
{
    const hookup *h = self;
    return h->mechanism[i].name;
}

uint32_t hookup_need_mechanism(cursor *p, const hookup *h)
{
    const token *name = cursor_need_name(p, arena_print(h->t->arena, "a %s", h->catalog->thing));
    unsigned i = 0;
    while (i < h->mechanisms && strcmp(h->mechanism[i].name, name->text) != 0) {
        i++;
    }
    if (i == h->mechanisms) {
        cursor_pass_refused(p, name);
        tree_refuse(p->tree, name->text);
        const char *near = report_suggest(h->t->report, name->text, mechanism_item_name, (void *)h, h->mechanisms);
        cursor_fail(p, name->at, near ? near : "write its line above this one", "there is no %s '%s'",
                    h->catalog->thing, name->text);
    }
    return i;
}

/* Returns the unit of what is seen. */
static const char *parse_seen(cursor *p, const hookup *h, rgp_sensor_item *s)
{
    s->mechanism = hookup_need_mechanism(p, h);
    s->output = hookup_need_terminal(p, h->mechanism[s->mechanism].kind->output, "quantity of this mechanism");
    return h->mechanism[s->mechanism].kind->output[s->output].unit;
}

/* "column 3 of board", or "depth" of board. */
static void parse_column(cursor *p, const hookup *h, rgp_sensor_item *s)
{
    if (cursor_now(p)->kind == TOKEN_STRING) {
        s->column = cursor_next(p)->text;
    } else {
        cursor_need_word(p, "column", "for instance: column 2 of board, or \"depth\" of board");
        s->constant = hookup_need_quantity(p, "", "the column's number", NULL);
        if (s->constant < 1.0 || s->constant > COLUMNS_MAX || s->constant != floor(s->constant)) {
            cursor_fail(p, p->at[-1].at, "the first column is number 1", "a column has a whole number from 1 to %g",
                        COLUMNS_MAX);
        }
    }
    cursor_need_word(p, "of", "behind it stands the device: of board");
    s->mechanism = hookup_need_mechanism(p, h);
}

/* Returns the unit of the quantities in its points; NULL when it has no points. */
static const char *parse_source(cursor *p, const hookup *h, rgp_sensor_item *s)
{
    switch (s->kind->source) {
    case RGP_SOURCE_MECHANISM:
        return parse_seen(p, h, s);
    case RGP_SOURCE_FILE:
        s->path = hookup_need_text(p, "a file name");
        if (cursor_now(p)->kind == TOKEN_STRING) {
            s->column = cursor_next(p)->text;
        }
        break;
    case RGP_SOURCE_DEVICE:
        parse_column(p, h, s);
        break;
    case RGP_SOURCE_CONSTANT:
        s->constant = hookup_need_quantity(p, "counts", "a raw reading", NULL);
        break;
    case RGP_SOURCE_CLOCK:
        s->constant = hookup_need_quantity(p, "s", "the time of day", NULL);
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

static uint32_t count_sensor_kinds(const hookup *h)
{
    uint32_t kinds = 0;
    while (h->catalog->sensor[kinds]) {
        kinds++;
    }
    return kinds;
}

static const rgp_sensor_kind *need_sensor_kind(cursor *p, const hookup *h)
{
    const uint32_t kinds = count_sensor_kinds(h);
    const char *all = "";
    for (uint32_t i = 0; i < kinds; i++) {
        all = arena_print(h->t->arena, "%s%s'%s'", all,
                          i == 0           ? ""
                          : i + 1 == kinds ? " or "
                                           : ", ",
                          h->catalog->sensor[i]->word);
    }
    const token *verb = cursor_need_name(p, all);
    for (uint32_t i = 0; i < kinds; i++) {
        if (token_is_word(verb, h->catalog->sensor[i]->word)) {
            return h->catalog->sensor[i];
        }
    }
    cursor_fail(p, verb->at, report_choose(p->tree->report, verb->text, sensor_kind_name, (void *)h->catalog, kinds),
                "a sensor does not '%s'", verb->text);
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

void hookup_parse_sensor(cursor *p, hookup *h)
{
    hookup_need_room(p, h->sensors);
    const token *first = cursor_now(p);
    rgp_sensor_item s = {.line = report_line(h->t->report, first->at.start)};
    if (first->kind == TOKEN_WORD && !tree_find(p->tree, first->text)) {
        cursor_pass_refused(p, first);
        if (cursor_behind(p)->kind == TOKEN_WORD) { /* perhaps a mechanism's name, behind a mistyped kind */
            tree_refuse(p->tree, cursor_behind(p)->text);
        }
        cursor_pass_missing(p, first);
        cursor_fail(p, first->at, suggest_line(p, h, first->text), "'%s' is neither %s of this rig nor a kind of %s",
                    first->text, h->catalog->actuator ? "a sensor or an actuator" : "a sensor", h->catalog->thing);
    }
    symbol *sensor = hookup_need_channel(p, SYMBOL_SENSOR, "a sensor");
    h->tried[sensor->place] = 1;
    s.sensor = sensor->index;
    for (unsigned i = 0; i < h->sensors; i++) {
        if (h->sensor[i].sensor == s.sensor) {
            cursor_fail(p, first->at, NULL, "'%s' is connected twice", sensor->name);
        }
    }
    s.kind = need_sensor_kind(p, h);
    const char *seen_unit = parse_source(p, h, &s);
    hookup_default_settings(s.kind->setting, s.value);
    if (cursor_take_mark(p, MARK_COLON)) {
        do {
            const bool number = cursor_now(p)->kind == TOKEN_NUMBER || token_is_mark(cursor_now(p), MARK_MINUS);
            if (number && seen_unit) {
                parse_point(p, &s, &h->mechanism[s.mechanism], seen_unit);
            } else {
                hookup_parse_setting(p, s.kind->setting, s.kind->disturbance, NULL, s.value, s.text);
            }
        } while (cursor_take_mark(p, MARK_COMMA));
    }
    cursor_need_end(p);
    if (s.points == 1) {
        cursor_fail(p, first->at, "for instance: 312 at 0 cm, 3020 at 12 cm", "one point makes no line");
    }
    *ARENA_PUSH(h->t->arena, h->sensor, h->sensors, h->sensors_room) = s;
}

/* The mark stands in the text once. */
static const char *need_sent(cursor *p, const rgp_actuator_kind *kind)
{
    const token *text = cursor_now(p);
    const char *sent = hookup_need_text(p, "what is sent"), *at = strstr(sent, kind->mark);
    if (!at || strstr(at + strlen(kind->mark), kind->mark)) {
        cursor_fail(p, text->at, arena_print(p->tree->arena, "for instance: %s \"pump %s\"", kind->word, kind->mark),
                    at ? "the value stands in it twice"
                       : "there is no place for the value in it: write %s where it goes",
                    kind->mark);
    }
    return sent;
}

static const rgp_actuator_kind *need_actuator_kind(cursor *p, const hookup *h)
{
    const rgp_actuator_kind *const *kind = h->catalog->actuator;
    const char *all = arena_print(h->t->arena, "'%s'", kind[0]->word);
    const token *verb = cursor_need_name(p, all);
    while (*kind && !token_is_word(verb, (*kind)->word)) {
        kind++;
    }
    if (!*kind) {
        cursor_fail(p, verb->at, arena_print(h->t->arena, "there is: %s", all), "an actuator does not '%s'",
                    verb->text);
    }
    return *kind;
}

void hookup_parse_actuator(cursor *p, hookup *h)
{
    hookup_need_room(p, h->actuators);
    const token *first = cursor_now(p);
    const symbol *actuator = hookup_need_channel(p, SYMBOL_ACTUATOR, "an actuator");
    rgp_actuator_item a = {.actuator = actuator->index, .line = report_line(h->t->report, first->at.start)};
    h->tried[actuator->place] = 1;
    for (unsigned i = 0; i < h->actuators; i++) {
        if (h->actuator[i].actuator == a.actuator) {
            cursor_fail(p, first->at, NULL, "'%s' is connected twice", actuator->name);
        }
    }
    a.kind = need_actuator_kind(p, h);
    a.sent = need_sent(p, a.kind);
    cursor_need_word(p, "to", "behind it stands the device: to board");
    a.mechanism = hookup_need_mechanism(p, h);
    hookup_default_settings(a.kind->setting, a.value);
    if (cursor_take_mark(p, MARK_COLON)) {
        do {
            hookup_parse_setting(p, a.kind->setting, NULL, NULL, a.value, a.text);
        } while (cursor_take_mark(p, MARK_COMMA));
    }
    cursor_need_end(p);
    *ARENA_PUSH(h->t->arena, h->actuator, h->actuators, h->actuators_room) = a;
}
