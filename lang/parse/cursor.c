/* Reading along the tokens of one line. */
#include "cursor.h"

#include <stdarg.h>
#include <stdio.h>
#include <string.h>

const token *cursor_now(const cursor *p)
{
    return p->at < p->limit ? p->at : &p->beyond;
}

const token *cursor_behind(const cursor *p)
{
    return p->at + 1 < p->limit ? p->at + 1 : &p->beyond;
}

token *cursor_next(cursor *p)
{
    return p->at < p->limit ? p->at++ : &p->beyond;
}

void cursor_fail(cursor *p, text_range at, const char *advice, const char *format, ...)
{
    char text[400];
    va_list arguments;
    va_start(arguments, format);
    vsnprintf(text, sizeof text, format, arguments);
    va_end(arguments);
    report_error(p->tree->report, at, advice, "%s", text);
    longjmp(p->recover, 1);
}

static void give_up(cursor *p)
{
    p->tree->report->complaints++;
    longjmp(p->recover, 1);
}

void cursor_pass_refused(cursor *p, const token *t)
{
    if (t->kind == TOKEN_WORD && tree_is_refused(p->tree, t->text)) {
        give_up(p);
    }
}

void cursor_pass_missing(cursor *p, const token *t)
{
    if (report_joins(p->tree->report, t->at, arena_print(p->tree->arena, TREE_MISSING, t->text))) {
        give_up(p);
    }
}

void cursor_fail_expected(cursor *p, const char *what, const char *advice)
{
    const token *t = cursor_now(p);
    if (t->kind == TOKEN_END) {
        cursor_fail(p, t->at, advice, "expected %s, but the line ends here", what);
    }
    const char *foreign = rgp_word_elsewhere(t->text);
    cursor_fail(p, t->at, foreign ? foreign : advice, "expected %s before '%s'", what, t->text);
}

bool token_is_mark(const token *t, token_mark mark)
{
    return t->mark == mark;
}

bool token_is_word(const token *t, const char *word)
{
    return t->kind == TOKEN_WORD && strcmp(t->text, word) == 0;
}

bool cursor_take_mark(cursor *p, token_mark mark)
{
    return token_is_mark(cursor_now(p), mark) && cursor_next(p);
}

bool cursor_take_word(cursor *p, const char *word)
{
    return token_is_word(cursor_now(p), word) && cursor_next(p);
}

/* The number of tokens of the line that are these words, "on at least" or "on-off"; 0: they are not. */
static uint32_t tokens_of(const cursor *p, const char *words)
{
    const token *t = p->at;
    uint32_t count = 0;
    while (*words) {
        const size_t length = *words == '-' ? 1 : strcspn(words, " -");
        const bool mark = *words == '-';
        if (&t[count] >= p->limit || t[count].kind != (mark ? TOKEN_MARK : TOKEN_WORD) ||
            strlen(t[count].text) != length || strncmp(t[count].text, words, length) != 0) {
            return 0;
        }
        count++;
        words += length;
        words += *words == ' ';
    }
    return count;
}

bool cursor_take_words(cursor *p, const char *words)
{
    const uint32_t count = tokens_of(p, words);
    for (uint32_t i = 0; i < count; i++) {
        cursor_next(p);
    }
    return count > 0;
}

void cursor_need_mark(cursor *p, token_mark mark, const char *advice)
{
    char what[8];
    if (!cursor_take_mark(p, mark)) {
        snprintf(what, sizeof what, "'%s'", token_marks[mark]);
        cursor_fail_expected(p, what, advice);
    }
}

void cursor_need_word(cursor *p, const char *word, const char *advice)
{
    char what[40];
    if (!cursor_take_word(p, word)) {
        snprintf(what, sizeof what, "'%s'", word);
        cursor_fail_expected(p, what, advice);
    }
}

const token *cursor_need_name(cursor *p, const char *what)
{
    if (cursor_now(p)->kind != TOKEN_WORD) {
        cursor_fail_expected(p, what, NULL);
    }
    return cursor_next(p);
}

void cursor_need_end(cursor *p)
{
    const token *t = cursor_now(p);
    if (t->kind == TOKEN_END) {
        return;
    }
    const token *wrong = token_is_mark(t, MARK_COMMA) ? cursor_behind(p) : t;
    const char *advice = wrong == t ? rgp_word_elsewhere(t->text) : NULL;
    if (!advice && wrong->kind == TOKEN_WORD) {
        advice = tree_suggest_phrase(p->tree, wrong->text);
    }
    advice = advice ? advice : rgp_word_elsewhere(t->text);
    cursor_pass_refused(p, t); /* a unit whose declaration is broken */
    cursor_fail(p, t->at, advice ? advice : "one statement a line; indent a line to continue the one above",
                "'%s' was not expected here", t->text);
}

static const char *unit_name(void *self, uint32_t i)
{
    return unit_word(self, i);
}

static unit need_unit_word(cursor *p)
{
    const token *t = cursor_need_name(p, "a unit");
    unit u;
    if (!unit_find(&p->tree->units, t->text, &u)) {
        uint32_t count = 0;
        while (unit_word(&p->tree->units, count)) {
            count++;
        }
        const char *foreign = rgp_word_elsewhere(t->text);
        cursor_pass_refused(p, t);
        cursor_fail(p, t->at,
                    foreign ? foreign : report_suggest(p->tree->report, t->text, unit_name, &p->tree->units, count),
                    "'%s' is no known unit", t->text);
    }
    return u;
}

/* "ml/s": what is glued on with / or * is of the unit. */
unit cursor_need_unit(cursor *p)
{
    unit u = need_unit_word(p);
    while ((token_is_mark(cursor_now(p), MARK_OVER) || token_is_mark(cursor_now(p), MARK_TIMES)) &&
           cursor_now(p)->glued && cursor_behind(p)->kind == TOKEN_WORD && cursor_behind(p)->glued) {
        const int sign = token_is_mark(cursor_next(p), MARK_TIMES) ? 1 : -1;
        u = unit_product(&p->tree->units, u, need_unit_word(p), sign);
    }
    return u;
}

/* Words that may follow a number that has no unit: those of the language and of the settings. */
static bool follows_number(const token *t)
{
    if (t->kind != TOKEN_WORD || operator_word_find(t->text) || detector_word_find(t->text)) {
        return true;
    }
    for (uint32_t i = 0; i < joining_words_count; i++) {
        if (token_is_word(t, joining_words[i])) {
            return true;
        }
    }
    for (uint32_t i = 0; i < stage_words_count; i++) {
        const stage_setting *s = stage_words[i].setting;
        for (uint32_t k = 0; k < STAGE_SETTINGS_MAX && s[k].name; k++) {
            if (s[k].word && token_is_word(t, s[k].word)) {
                return true;
            }
        }
    }
    return false;
}

static node *number(cursor *p, bool with_unit)
{
    const token *t = cursor_next(p);
    node *n = tree_node(p->tree, NODE_NUMBER, t->at);
    n->number = t->number;
    n->text_at = t->at;
    n->type = (type){TYPE_NUMBER, unit_none, NULL};
    if (with_unit) {
        n->type.unit = cursor_need_unit(p);
        n->at.end = p->at[-1].at.end;
    }
    return n;
}

static bool is_unit(const cursor *p, const token *t)
{
    unit known;
    return t->kind == TOKEN_WORD && unit_find(&p->tree->units, t->text, &known);
}

/* "7 h 30 min": of times, a part in a finer unit may follow. */
static void add_parts(cursor *p, node *n)
{
    while (unit_same_kind(n->type.unit, unit_seconds) && !unit_is_bare(n->type.unit) &&
           cursor_now(p)->kind == TOKEN_NUMBER && is_unit(p, cursor_behind(p))) {
        const node *part = number(p, true);
        double more = 0.0;
        if (!node_constant(part, n->type.unit, &more) || !(part->type.unit.scale < n->type.unit.scale)) {
            cursor_fail(p, part->at, "for instance: 7 h 30 min", "a finer unit of time must follow here");
        }
        n->number += more;
        n->at.end = n->text_at.end = part->at.end;
    }
}

node *cursor_number(cursor *p)
{
    const token *behind = cursor_behind(p);
    node *n = number(p, is_unit(p, behind) || !follows_number(behind));
    add_parts(p, n);
    return n;
}

node *cursor_hookup_number(cursor *p)
{
    node *n = number(p, is_unit(p, cursor_behind(p)));
    add_parts(p, n);
    return n;
}

void cursor_bound(cursor *p, int32_t floor)
{
    token *t = p->at;
    uint32_t end;
    do {
        end = t->at.end;
        t++;
    } while (t->kind != TOKEN_END && !(t->indent >= 0 && t->indent <= floor));
    p->limit = t;
    p->beyond = (token){.kind = TOKEN_END, .at = {end, end}, .indent = -1, .text = "end of line"};
    p->depth = p->links = 0;
}
