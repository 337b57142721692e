/* The quantities and settings in a line of a hook-up, by the port's lists of what there is. */
#include "hookup.h"

#include <string.h>

#define ITEMS_MAX 200u

void hookup_need_room(cursor *p, uint32_t count)
{
    if (count >= ITEMS_MAX) {
        cursor_fail(p, cursor_now(p)->at, NULL, "too many lines of this kind (limit %u)", ITEMS_MAX);
    }
}

static const char *setting_name(void *self, uint32_t i)
{
    const rgp_setting *s = self;
    return s[i].word;
}

static const char *terminal_name(void *self, uint32_t i)
{
    const rgp_terminal *s = self;
    return s[i].word;
}

static uint32_t count_settings(const rgp_setting *s)
{
    uint32_t n = 0;
    while (n < RGP_KIND_SETTINGS_MAX && s[n].word) {
        n++;
    }
    return n;
}

/* Of no list, none. */
static uint32_t count_terminals(const rgp_terminal *s)
{
    uint32_t n = 0;
    while (s && n < RGP_KIND_TERMINALS_MAX && s[n].word) {
        n++;
    }
    return n;
}

int32_t hookup_find_terminal(const rgp_terminal *s, const token *word)
{
    for (uint32_t i = 0; i < count_terminals(s); i++) {
        if (token_is_word(word, s[i].word)) {
            return (int32_t)i;
        }
    }
    return -1;
}

uint32_t hookup_need_terminal(cursor *p, const rgp_terminal *s, const char *what)
{
    const token *word = cursor_need_name(p, what);
    const int32_t i = hookup_find_terminal(s, word);
    if (i < 0) {
        const char *all = "none";
        for (uint32_t k = 0; k < count_terminals(s); k++) {
            all = arena_print(p->tree->arena, "%s%s%s", k ? all : "", k ? ", " : "", s[k].word);
        }
        const char *near = report_suggest(p->tree->report, word->text, terminal_name, (void *)s, count_terminals(s));
        cursor_fail(p, word->at, near ? near : arena_print(p->tree->arena, "there is: %s", all), "'%s' is no %s",
                    word->text, what);
    }
    return (uint32_t)i;
}

symbol *hookup_need_channel(cursor *p, symbol_kind kind, const char *what)
{
    const token *word = cursor_need_name(p, what);
    symbol *s = tree_find(p->tree, word->text);
    if (!s) {
        tree_unknown(p->tree, word->at, word->text);
        longjmp(p->recover, 1);
    }
    if (s->kind != kind) {
        cursor_fail(p, word->at, NULL, "'%s' is not %s", word->text, what);
    }
    return s;
}

/* A unit out of the port's catalogue. */
unit hookup_catalog_unit(cursor *p, const char *text)
{
    unit u;
    if (!unit_find_text(&p->tree->units, text, &u)) {
        cursor_fail(p, cursor_now(p)->at, NULL, "the port's catalogue asks for '%s' here, which is no unit", text);
    }
    return u;
}

double hookup_need_quantity(cursor *p, const char *unit_text, const char *what, rgp_written *where)
{
    const token *first = cursor_now(p);
    const bool negative = cursor_take_mark(p, MARK_MINUS);
    if (cursor_now(p)->kind != TOKEN_NUMBER) {
        cursor_fail_expected(p, what, NULL);
    }
    const uint32_t end = cursor_now(p)->at.end;
    const node *n = cursor_hookup_number(p);
    const unit wanted = hookup_catalog_unit(p, unit_text);
    double value = 0.0;
    if (!node_constant(n, wanted, &value)) {
        const char *advice = *unit_text ? arena_print(p->tree->arena, "for instance: 1 %s", unit_text) : NULL;
        cursor_fail(p, (text_range){first->at.start, n->at.end}, advice, "%s must be %s, but this is %s", what,
                    unit_describe(&p->tree->units, wanted), unit_describe(&p->tree->units, n->type.unit));
    }
    if (where) {
        *where = (rgp_written){first->at.start, end, n->type.unit.text};
    }
    return negative ? -value : value;
}

/* The unit that is written next; NULL: there is no number. */
static const char *unit_ahead(cursor *p)
{
    token *const here = p->at;
    cursor_take_mark(p, MARK_MINUS);
    const char *ahead = cursor_now(p)->kind == TOKEN_NUMBER ? cursor_hookup_number(p)->type.unit.text : NULL;
    p->at = here;
    return ahead;
}

/* The unit of a quantity of a mechanism. One that is of none by itself takes the first that is written. */
const char *hookup_unit_of(cursor *p, const char *unit_text, rgp_mechanism_item *of)
{
    const bool step = strcmp(unit_text, RGP_UNIT_OWN_STEP) == 0;
    if (!of || !(step || strcmp(unit_text, RGP_UNIT_OWN) == 0)) {
        return unit_text;
    }
    const char *ahead = unit_ahead(p);
    if (!*of->unit && ahead) {
        const bool of_temperature = step && (strcmp(ahead, "K") == 0 || strcmp(ahead, "degR") == 0);
        of->unit = of_temperature ? (*ahead == 'K' ? "degC" : "degF") : ahead;
    }
    return step ? unit_difference(hookup_catalog_unit(p, of->unit)).text : of->unit;
}

const char *hookup_need_text(cursor *p, const char *what)
{
    if (cursor_now(p)->kind != TOKEN_STRING) {
        cursor_fail_expected(p, arena_print(p->tree->arena, "%s in quotes", what), NULL);
    }
    return cursor_next(p)->text;
}

/* `of`: the mechanism, or NULL for a channel. */
static void need_setting(cursor *p, const rgp_setting *table, uint32_t i, rgp_mechanism_item *of, double *value,
                         const char **text)
{
    const token *word = cursor_next(p);
    if (!table[i].unit) {
        value[i] = 1.0;
        return;
    }
    const char *what = arena_print(p->tree->arena, "'%s'", table[i].word);
    if (strcmp(table[i].unit, RGP_UNIT_TEXT) == 0) {
        text[i] = hookup_need_text(p, what);
        value[i] = 1.0;
        return;
    }
    const char *unit_text = hookup_unit_of(p, table[i].unit, of);
    const double given = hookup_need_quantity(p, unit_text, what, of ? &of->written[i] : NULL);
    if (given < table[i].low || given > table[i].high) {
        cursor_fail(p, word->at, NULL, "'%s' must be from %g to %g %s", table[i].word, table[i].low, table[i].high,
                    unit_text);
    }
    value[i] = given;
}

/* `word QUANTITY`, and the joined settings that may follow it. */
void hookup_parse_setting(cursor *p, const rgp_setting *table, const rgp_terminal *inputs, rgp_mechanism_item *of,
                          double *value, const char **text)
{
    const token *word = cursor_now(p);
    const uint32_t count = count_settings(table);
    uint32_t i = 0;
    while (i < count && (table[i].joined || !token_is_word(word, table[i].word))) {
        i++;
    }
    for (uint32_t k = 1; i == count && k < count; k++) {
        if (table[k].joined && token_is_word(word, table[k].word)) {
            cursor_fail(
                p, word->at,
                arena_print(p->tree->arena, "write it directly behind '%s', without a comma", table[k - 1].word),
                "'%s' does not stand alone", word->text);
        }
    }
    if (i == count) {
        const char *near = report_suggest(p->tree->report, word->text, setting_name, (void *)table, count);
        near =
            near ? near
                 : report_suggest(p->tree->report, word->text, terminal_name, (void *)inputs, count_terminals(inputs));
        cursor_fail(p, word->at, near, "there is no setting '%s' here", word->text);
    }
    need_setting(p, table, i, of, value, text);
    while (++i < count && table[i].joined && token_is_word(cursor_now(p), table[i].word)) {
        need_setting(p, table, i, of, value, text);
    }
}

void hookup_default_settings(const rgp_setting *table, double *value)
{
    for (uint32_t i = 0; i < count_settings(table); i++) {
        value[i] = table[i].initial;
    }
}
