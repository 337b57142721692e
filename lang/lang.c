#include "rigpulse/lang.h"

#include "lang/parse/tree.h"

#include <stdlib.h>
#include <string.h>

#define SOURCE_MAX (16u << 20)

static void read_tree(rp_rig *rig, report *to, const rp_catalog *catalog)
{
    tree *t = arena_get(rig->arena, sizeof *t);
    rig->tree = t;
    t->report = to;
    t->arena = rig->arena;
    t->units.arena = rig->arena;
    if (rig->length > SOURCE_MAX) {
        report_error(to, (rp_span){0, 0}, NULL, "this file is larger than 16 MB");
        return;
    }
    token *tokens = lang_lex(to);
    if (tokens->kind == TOKEN_END && to->errors == 0) {
        report_error(to, (rp_span){0, 0}, "begin with 'rig NAME'", "there is nothing in this file");
        return;
    }
    lang_parse(t, tokens);
    lang_order(t);
    lang_check(t);
    if (catalog) {
        rig->hookup = lang_check_hookup(t, catalog);
    }
    if (rig->hookup && to->errors == 0) {
        lang_warn_hookup(t, rig->hookup);
    }
    uint32_t size = 0;
    rig->image = lang_emit(t, &size);
    rig->image_size = size;
}

rp_rig *rp_rig_compile(const char *file, const char *source, size_t length, const rp_catalog *catalog)
{
    rp_arena *arena = calloc(1, sizeof *arena);
    if (!arena) {
        return NULL;
    }
    if (setjmp(arena->exhausted)) {
        arena_free(arena);
        free(arena);
        return NULL;
    }
    rp_rig *rig = arena_get(arena, sizeof *rig);
    rig->arena = arena;
    rig->file = arena_copy(arena, file, strlen(file));
    rig->source = arena_copy(arena, source, length);
    rig->length = length;
    report *to = arena_get(arena, sizeof *to);
    *to = (report){.arena = arena, .source = rig->source, .length = length};
    to->last = arena_get(arena, sizeof *to->last);
    *to->last = (report_line_at){0, 1};
    read_tree(rig, to, catalog);
    report_finish(to, rig);
    return rig;
}

void rp_rig_free(rp_rig *rig)
{
    if (rig) {
        rp_arena *arena = rig->arena;
        arena_free(arena);
        free(arena);
    }
}
