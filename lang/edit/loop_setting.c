/* The settings of a loop that are no gains, written or not: where they stand, or where they would. */
#include "place.h"

#include "lang/check/check.h"
#include "lang/vocabulary/words.h"

#include <string.h>

static const loop *find_loop(const tree *t, const char *name)
{
    for (uint32_t i = 0; i < t->loops; i++) {
        if (strcmp(t->loop[i]->name, name) == 0) {
            return t->loop[i];
        }
    }
    return NULL;
}

static const loop_line_of *written_line(const loop *l, const loop_line *line)
{
    for (uint32_t i = 0; i < l->lines; i++) {
        if (l->line[i].line == line) {
            return &l->line[i];
        }
    }
    return NULL;
}

/* "filter" of the method; "ramp"; "engage within". */
static const char *name_of(tree *t, const loop_line *line, const loop_setting *is)
{
    if (line->kind == LOOP_METHOD) {
        return is->word;
    }
    return is->word ? arena_print(t->arena, "%s %s", line->word, is->word) : line->word;
}

/* Behind the last setting of its line. */
static void put_behind(tree *t, const loop_line_of *of, const loop_setting *is, rgp_place *p)
{
    for (uint32_t k = 0; k < LOOP_LINE_SETTINGS_MAX && of->line->setting[k].name; k++) {
        const node *value = of->setting[k].value;
        p->start = value && value->at.end > p->start ? value->at.end : p->start;
    }
    p->end = p->start;
    p->open = p->start > 0; /* else all that it has are words alone */
    p->before = arena_print(t->arena, ", %s ", is->word);
}

/* As a line of its own above the method's, as far indented. */
static void put_above(const rgp_rig *rig, const loop *l, const loop_line *line, const loop_setting *is, rgp_place *p)
{
    const uint32_t at = l->method->at.start;
    uint32_t indent = 0;
    while (indent < at && strchr(" \t", rig->source[at - indent - 1])) {
        indent++;
    }
    const char *end = strstr(rig->source, "\r\n") ? "\r\n" : "\n";
    p->start = p->end = at;
    p->before = arena_print(rig->arena, "%s %s%s", line->word, is->word ? is->word : "", is->word ? " " : "");
    p->after = arena_print(rig->arena, "%s%s%.*s", p->after, end, (int)indent, rig->source + at - indent);
}

static rgp_place place_missing(rgp_rig *rig, const loop *l, const loop_line *line, const loop_setting *is, unit used)
{
    tree *t = rig->tree;
    const loop_line_of *of = written_line(l, line);
    rgp_place p = {.after = *used.text ? arena_print(t->arena, " %s", used.text) : "",
                   .unit = used.text,
                   .gain = 1.0,
                   .value = is->initial,
                   .open = true};
    if (of) {
        put_behind(t, of, is, &p);
    } else {
        put_above(rig, l, line, is, &p);
    }
    return p;
}

/* A setting that its line needs cannot be put in alone. */
static bool can_be_missing(const loop *l, const loop_line *line)
{
    return written_line(l, line) || line->setting[0].initial < REQUIRED;
}

static void add_setting(rgp_rig *rig, const loop *l, const loop_line *line, uint32_t k, rgp_loop_setting *to,
                        uint32_t *count)
{
    tree *t = rig->tree;
    const loop_setting *is = &line->setting[k];
    const loop_line_of *of = written_line(l, line);
    bool interval;
    const unit used = lang_loop_unit(t, l, is->unit, &interval);
    const node *value = of ? of->setting[k].value : NULL;
    const rgp_place place = value ? place_of(t, value, used, true) : place_missing(rig, l, line, is, used);
    const number_limits limits = loop_limits(line, is);
    if (place.open) {
        to[(*count)++] = (rgp_loop_setting){name_of(t, line, is), used.text, limits.low, limits.high, place};
    }
}

static uint32_t add_all(rgp_rig *rig, const loop *l, rgp_loop_setting *to)
{
    uint32_t count = 0;
    for (uint32_t i = 0; i < loop_lines_count; i++) {
        const loop_line *line = &loop_lines[i];
        const bool own = line->kind != LOOP_METHOD || line == l->method->line;
        for (uint32_t k = 0; own && can_be_missing(l, line) && k < LOOP_LINE_SETTINGS_MAX; k++) {
            const loop_setting *is = &line->setting[k];
            if (is->name && !is->flag && !is->param && count < RGP_LOOP_SETTINGS_MAX) {
                add_setting(rig, l, line, k, to, &count);
            }
        }
    }
    return count;
}

uint32_t rgp_rig_loop_settings(rgp_rig *rig, const char *name, rgp_loop_setting to[RGP_LOOP_SETTINGS_MAX])
{
    const loop *l = find_loop(rig->tree, name);
    return l && setjmp(rig->arena->exhausted) == 0 ? add_all(rig, l, to) : 0;
}
