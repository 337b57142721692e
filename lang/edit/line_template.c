/* A line that is still to be measured: what it will look like, with numbers in it that mean nothing yet. */
#include "rigpulse/edit.h"

#include "place.h"

#include <string.h>

typedef struct line_template {
    rgp_rig *rig;
    const char *name, *known_unit;
    const rgp_catalog *catalog;
    const char *input; /* before the stage that is to be measured */
    const char *stage; /* as it is written */
    const char *rest;  /* behind it, with its '|' */
    const char *why;
} line_template;

static const char *trimmed(rgp_rig *rig, const char *text, size_t length)
{
    while (length > 0 && *text == ' ') {
        text++;
        length--;
    }
    while (length > 0 && text[length - 1] == ' ') {
        length--;
    }
    return arena_copy(rig->arena, text, length);
}

static bool is_blank_stage(const char *part)
{
    return calibration_is_measured(part) || strncmp(part, "echo ", 5) == 0;
}

/* Cuts the line at the stage without settings. */
static bool cut(line_template *d, const char *line)
{
    const char *at = line;
    while (*at) {
        const size_t length = strcspn(at, "|");
        const char *part = trimmed(d->rig, at, length);
        if (at > line && is_blank_stage(part)) {
            d->input = trimmed(d->rig, line, (size_t)(at - line) - 1);
            d->stage = part;
            d->rest = trimmed(d->rig, at + length, strlen(at + length));
            return true;
        }
        at += length + (at[length] == '|');
    }
    return false;
}

/* The file with one more statement, compiled; NULL with the reason when there are errors. */
static rgp_rig *try_line(line_template *d, const char *statement)
{
    const char *text = edit_add(d->rig, statement);
    rgp_rig *made = rgp_rig_compile(d->rig->file, text, strlen(text), d->catalog);
    if (made && made->errors > 0) {
        const rgp_message *m = made->message;
        while (m->warning) {
            m++;
        }
        d->why = arena_print(d->rig->arena, "'%s' does not work: %s%s%s", statement, m->text, m->advice ? "; " : "",
                             m->advice ? m->advice : "");
        rgp_rig_free(made);
        return NULL;
    }
    return made;
}

/* The unit of an expression, as a copy; NULL with the reason when it is no number. */
static const char *unit_of(line_template *d, const char *expression)
{
    rgp_rig *made = try_line(d, arena_print(d->rig->arena, "signal %s = %s", d->name, expression));
    if (!made) {
        return NULL;
    }
    const symbol *s = tree_find(made->tree, d->name);
    const char *found = NULL;
    if (s->type.kind == TYPE_NUMBER) {
        found = arena_copy(d->rig->arena, s->type.unit.text, strlen(s->type.unit.text));
    } else {
        d->why = arena_print(d->rig->arena, "'%s' is not a number", expression);
    }
    rgp_rig_free(made);
    return found;
}

/* One `out` a `in`, as a unit is written: "cm/ml*s" of cm and ml/s. */
static const char *ratio(line_template *d, const char *out, const char *in)
{
    if (!*in) {
        return out;
    }
    char *below = arena_copy(d->rig->arena, in, strlen(in));
    for (char *c = below; *c; c++) {
        *c = *c == '/' ? '*' : *c;
    }
    return arena_print(d->rig->arena, "%s/%s", out, below);
}

static const char *blank_settings(line_template *d, const char *in, const char *out)
{
    rgp_arena *arena = d->rig->arena;
    const bool bare = strcmp(in, "counts") == 0;
    const char *space = bare || !*in ? "" : " ", *in_word = bare ? "" : in;
    if (strcmp(d->stage, "table") == 0) {
        return arena_print(arena, "table 0%s%s: 0 %s, 1%s%s: 1 %s, strict", space, in_word, out, space, in_word, out);
    }
    if (strcmp(d->stage, "line") == 0) {
        return arena_print(arena, "line 1 %s, 0 %s", ratio(d, out, in), out);
    }
    if (strcmp(d->stage, "power") == 0) {
        return arena_print(arena, "power 1 %s at 1 %s, exponent 1", out, in);
    }
    if (strcmp(d->stage, "beta") == 0) {
        return arena_print(arena, "beta 4000 K, 1 %s at 25 degC", in);
    }
    return strcmp(d->stage, "steinhart") == 0 ? "steinhart 1e-3, 2e-4, 1e-7" : d->stage;
}

static const char *stage_statement(line_template *d)
{
    const char *in = unit_of(d, d->input);
    if (!in) {
        return NULL;
    }
    if (!d->known_unit || !*d->known_unit) {
        d->why = "it is not known in which unit the known values are";
        return NULL;
    }
    const char *out = strstr(d->rest, "accumulate") ? arena_print(d->rig->arena, "%s/s", d->known_unit) : d->known_unit;
    return arena_print(d->rig->arena, "signal %s = %s | %s%s%s", d->name, d->input, blank_settings(d, in, out),
                       *d->rest ? " " : "", d->rest);
}

/* "low below 0 cm, mid, high above 10 cm; margin 1 cm": the last border is the last band's, the others the lower one's.
 * A parameter may come later where a number stands now. */
static const char *bands_statement(line_template *d, const char *line)
{
    rgp_arena *arena = d->rig->arena;
    const char *colon = strrchr(line, ':'), *name[RGP_CALIBRATION_BANDS_MAX];
    const char *input = trimmed(d->rig, line, (size_t)(colon - line)), *of = unit_of(d, input), *text;
    uint32_t count = 0;
    if (!of) {
        return NULL;
    }
    for (const char *at = colon + 1; *at && count < RGP_CALIBRATION_BANDS_MAX;) {
        const size_t length = strcspn(at, ",");
        name[count++] = trimmed(d->rig, at, length);
        at += length + (at[length] == ',');
    }
    if (count < 2) {
        d->why = "bands need at least two names, for instance: light: thick, misty, clear";
        return NULL;
    }
    text = arena_print(arena, "bands %s = %s: ", d->name, input);
    for (uint32_t i = 0; i < count; i++) {
        const bool last = i + 1 == count, below = i + 2 < count || count == 2;
        const char *limit = last && count == 2 ? ""
                            : last             ? arena_print(arena, " above %u %s", 10 * (i - 1), of)
                            : below            ? arena_print(arena, " below %u %s", 10 * i, of)
                                               : "";
        text = arena_print(arena, "%s%s%s%s", text, name[i], limit, last ? "" : ", ");
    }
    return arena_print(arena, "%s; margin 1 %s", text, strcmp(of, "degC") == 0 ? "K" : of);
}

static rgp_rig *make(line_template *d, const char *line, rgp_calibration *found)
{
    const char *statement = NULL, *why;
    if (tree_find(d->rig->tree, d->name)) {
        d->why =
            arena_print(d->rig->arena, "there is a '%s' in this rig already; give the new line another name", d->name);
    } else if (cut(d, line)) {
        statement = stage_statement(d);
    } else if (strchr(line, ':')) {
        statement = bands_statement(d, line);
    } else {
        d->why = arena_print(d->rig->arena,
                             "'%s' leaves nothing to be measured: write one stage without its settings (one of %s), "
                             "for instance: level | table",
                             line, rgp_calibrated_stages());
    }
    rgp_rig *made = statement ? try_line(d, statement) : NULL;
    if (made && !rgp_rig_calibration(made, d->name, found, &why)) {
        d->why = arena_copy(d->rig->arena, why, strlen(why));
        rgp_rig_free(made);
        return NULL;
    }
    return made;
}

rgp_rig *rgp_rig_line_template(rgp_rig *rig, const char *name, const char *line, const char *in,
                               const rgp_catalog *catalog, rgp_calibration *found, const char **why)
{
    if (setjmp(rig->arena->exhausted)) {
        *why = "out of memory";
        return NULL;
    }
    line_template d = {.rig = rig, .name = name, .known_unit = in, .catalog = catalog, .why = "it cannot be read"};
    const char *one_line = trimmed(rig, line, strcspn(line, "\r\n#"));
    rgp_rig *made = make(&d, one_line, found);
    *why = d.why;
    return made;
}
