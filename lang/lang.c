/* A rig file's text through all phases of the compiler. */
#include "rigpulse/lang.h"

#include "lang/parse/tree.h"

#include <stdlib.h>
#include <string.h>

#define SOURCE_MAX   (16u << 20)
#define NO_RIG_LINES 3u /* fewer may be mistyped */

/* True when no line of a longer file begins as a statement does. */
static bool is_no_rig(const char *text, size_t length)
{
    uint32_t lines = 0;
    for (const char *at = text, *end = text + length, *next; at < end; at = next) {
        const char *line_end = memchr(at, '\n', (size_t)(end - at));
        next = line_end ? line_end + 1 : end;
        for (uint32_t i = 0; i < STATEMENTS; i++) {
            const size_t word = strlen(statement_words[i].word);
            if ((size_t)(next - at) > word && memcmp(at, statement_words[i].word, word) == 0 &&
                (at[word] == ' ' || at[word] == '\t')) {
                return false;
            }
        }
        lines += !strchr("\r\n#", *at);
    }
    return lines >= NO_RIG_LINES;
}

static void read_hookups(rgp_rig *rig, tree *t, const rgp_catalog *catalogs)
{
    rgp_hookup *made = arena_get(t->arena, (t->hookups + 1u) * sizeof *made);
    lang_read_hookups(t, catalogs, made);
    rig->hookups = made;
    rig->hookup_count = t->hookups;
    for (unsigned i = t->hookups; i-- > 0;) {
        const bool counts = !catalogs->wanted || strcmp(made[i].port, catalogs->wanted) == 0;
        rig->hookup = counts ? &made[i] : rig->hookup;
    }
    for (unsigned i = 0; i < t->hookups && t->report->errors == 0; i++) {
        lang_warn_hookup(t, &made[i]);
    }
}

static void read_tree(rgp_rig *rig, report *to, const rgp_catalog *catalog, bool traced)
{
    tree *t = arena_get(rig->arena, sizeof *t);
    rig->tree = t;
    t->traced = traced;
    t->report = to;
    t->arena = rig->arena;
    t->units.arena = rig->arena;
    if (rig->length > SOURCE_MAX) {
        report_error(to, (text_range){0, 0}, NULL, "this file is larger than 16 MB");
        return;
    }
    const bool is_text =
        !memchr(rig->source, '\0', rig->length) && text_not_utf8(rig->source, (uint32_t)rig->length) == rig->length;
    if (is_text && is_no_rig(rig->source, rig->length)) {
        report_error(to, (text_range){0, 0},
                     "a rig file begins with 'rig NAME'; recordings are shown by 'rigpulse plot'",
                     "this is not a rig file: none of its lines is a statement");
        return;
    }
    token *tokens = lang_lex(to);
    if (tokens->kind == TOKEN_END && to->errors == 0) {
        report_error(to, (text_range){0, 0}, "begin with 'rig NAME'", "there is nothing in this file");
        return;
    }
    to->phase = REPORT_PARSE;
    lang_parse(t, tokens);
    to->phase = REPORT_CHECK;
    lang_order(t);
    lang_check(t);
    if (catalog) {
        read_hookups(rig, t, catalog);
    }
    uint32_t size = 0;
    rig->image = lang_emit(t, &size);
    rig->image_size = size;
    rig->origin = rig->image ? t->origin : NULL;
}

static rgp_rig *compile(const char *file, const char *source, size_t length, const rgp_catalog *catalog, bool traced)
{
    rgp_arena *arena = calloc(1, sizeof *arena);
    if (!arena) {
        return NULL;
    }
    if (setjmp(arena->exhausted)) {
        arena_free(arena);
        free(arena);
        return NULL;
    }
    rgp_rig *rig = arena_get(arena, sizeof *rig);
    rig->arena = arena;
    rig->file = arena_copy(arena, file, strlen(file));
    rig->source = arena_copy(arena, source, length);
    rig->length = length;
    report *to = arena_get(arena, sizeof *to);
    report_begin(to, arena, rig->source, length);
    read_tree(rig, to, catalog, traced);
    report_finish(to, rig);
    return rig;
}

rgp_rig *rgp_rig_compile(const char *file, const char *source, size_t length, const rgp_catalog *catalog)
{
    return compile(file, source, length, catalog, false);
}

rgp_rig *rgp_rig_compile_traced(const char *file, const char *source, size_t length, const rgp_catalog *catalog)
{
    return compile(file, source, length, catalog, true);
}

void rgp_rig_free(rgp_rig *rig)
{
    if (rig) {
        rgp_arena *arena = rig->arena;
        arena_free(arena);
        free(arena);
    }
}

typedef struct claiming {
    const char *actuator;
    text_range statement;
    bool does;
} claiming;

static void look_at_claim(void *self, const symbol *actuator, text_range at)
{
    claiming *c = self;
    c->does |= actuator && strcmp(actuator->name, c->actuator) == 0 && at.start >= c->statement.start &&
               at.start < c->statement.end;
}

/* Of a certain actuator, or of any. */
static bool claims(const tree *t, const statement_at *s, const char *actuator)
{
    claiming c = {actuator, s->at, !actuator};
    if (!statement_claims(s->id)) {
        return false;
    }
    if (actuator) {
        tree_visit_claims(t, look_at_claim, &c);
    }
    return c.does;
}

uint32_t rgp_rig_driving_lines(const rgp_rig *rig, const char *actuator, uint32_t *line, uint32_t room)
{
    const tree *t = rig->tree;
    uint32_t lines = 0;
    for (unsigned i = 0; i < t->statements; i++) {
        if (claims(t, &t->statement[i], actuator)) {
            if (lines < room) {
                line[lines] = report_line(t->report, t->statement[i].at.start);
            }
            lines++;
        }
    }
    return lines;
}
