/* The lines that a device prints, taken apart into cells. */
#include "line.h"

#include <math.h>
#include <string.h>

void line_take_bytes(line_buffer *b, const char *bytes, gsize count, line_taker *take, void *self)
{
    for (gsize i = 0; i < count; i++) {
        if (bytes[i] != '\n' && bytes[i] != '\r') {
            b->overlong |= b->length == LINE_MOST;
            if (!b->overlong) {
                b->text[b->length++] = bytes[i] ? bytes[i] : '\x7f'; /* a text has no NUL */
            }
            continue;
        }
        b->text[b->length] = '\0';
        if (!b->skips && (b->overlong || b->length > 0)) {
            take(self, b->overlong ? NULL : b->text);
        }
        b->length = 0;
        b->overlong = b->skips = false;
    }
}

void line_begin(line_cells *c, bool json)
{
    *c = (line_cells){.json = json};
    c->cell = g_ptr_array_new_with_free_func(g_free);
    c->named = g_ptr_array_new_with_free_func(g_free);
    c->field = g_string_new(NULL);
    csv_init(&c->parser, CSV_APPEND_NULL);
}

void line_end(line_cells *c)
{
    g_ptr_array_unref(c->cell);
    g_ptr_array_unref(c->named);
    g_string_free(c->field, TRUE);
    json_decref(c->object);
    csv_free(&c->parser);
}

static void take_field(void *text, size_t length, void *self)
{
    (void)length;
    g_ptr_array_add(((line_cells *)self)->cell, g_strdup(text ? text : ""));
}

/* Runs of blanks part cells where nothing else does. */
static void split_at_blanks(line_cells *c, const char *line)
{
    g_auto(GStrv) words = g_strsplit_set(line, " ", -1);
    for (char **word = words; *word; word++) {
        if (**word) {
            g_ptr_array_add(c->cell, g_strdup(*word));
        }
    }
}

static void split_row(line_cells *c, const char *line)
{
    static const char separators[] = "\t;,";
    const char *separator = separators;
    while (*separator && !strchr(line, *separator)) {
        separator++;
    }
    g_ptr_array_set_size(c->cell, 0);
    if (!*separator && *line != '"') {
        split_at_blanks(c, line);
        return;
    }
    csv_set_delim(&c->parser, (unsigned char)(*separator ? *separator : ','));
    csv_parse(&c->parser, line, strlen(line), take_field, NULL, c);
    csv_fini(&c->parser, take_field, NULL, c);
}

bool line_split(line_cells *c, const char *line, const char **why)
{
    if (!g_utf8_validate(line, -1, NULL) || strchr(line, '\x7f')) {
        *why = "it is no text; is the speed right?";
        return false;
    }
    if (!c->json) {
        split_row(c, line);
        return true;
    }
    json_decref(c->object);
    c->object = json_loads(line, JSON_REJECT_DUPLICATES, NULL);
    if (!json_is_object(c->object)) {
        *why = "it is no object of JSON";
        return false;
    }
    return true;
}

void line_name_columns(line_cells *c)
{
    GPtrArray *before = c->named;
    c->named = c->cell;
    c->cell = before;
    g_ptr_array_set_size(c->cell, 0);
}

/* "tank.level": the whole name first, then from object to object. */
static const json_t *find_field(const json_t *object, const char *name)
{
    const json_t *found = json_object_get(object, name);
    const char *dot = found ? NULL : strchr(name, '.');
    while (!found && object && dot) {
        g_autofree char *part = g_strndup(name, (gsize)(dot - name));
        object = json_object_get(object, part);
        name = dot + 1;
        found = object ? json_object_get(object, name) : NULL;
        dot = strchr(name, '.');
    }
    return found;
}

static const char *field_text(line_cells *c, const json_t *field)
{
    switch (json_typeof(field)) {
    case JSON_STRING:
        return json_string_value(field);
    case JSON_TRUE:
        return "true";
    case JSON_FALSE:
        return "false";
    case JSON_INTEGER:
        g_string_printf(c->field, "%" JSON_INTEGER_FORMAT, json_integer_value(field));
        return c->field->str;
    case JSON_REAL:
        g_string_printf(c->field, "%.17g", json_real_value(field));
        return c->field->str;
    default: /* null, and what has parts */
        return "";
    }
}

static const char *pick(const GPtrArray *cells, guint i, const char **why)
{
    if (i >= cells->len) {
        *why = "the line has fewer columns";
        return NULL;
    }
    return cells->pdata[i];
}

static const char *named_cell(const line_cells *c, const char *name, const char **why)
{
    for (guint i = 0; i < c->named->len; i++) {
        if (strcmp(c->named->pdata[i], name) == 0) {
            return pick(c->cell, i, why);
        }
    }
    *why = c->named->len ? "the heading has no such column" : "no heading has named the columns yet";
    return NULL;
}

const char *line_cell(line_cells *c, unsigned number, const char *name, const char **why)
{
    if (!c->json) {
        return name ? named_cell(c, name, why) : pick(c->cell, number - 1, why);
    }
    const json_t *field = name ? find_field(c->object, name) : NULL;
    if (!field) {
        *why = "the line has no such field";
        return NULL;
    }
    return field_text(c, field);
}

/* Digits as programs print them: a point, no blanks within, no words for what is no number. */
bool line_number(const char *text, double *number)
{
    char *end;
    *number = g_ascii_strtod(text, &end);
    const bool decimal = text[strspn(text, "0123456789+-.eE")] == '\0';
    return end != text && *end == '\0' && decimal && isfinite(*number);
}

bool line_is_heading(const line_cells *c)
{
    double number;
    for (guint i = 0; i < c->cell->len; i++) {
        const char *text = c->cell->pdata[i];
        if (!*text || line_number(text, &number)) {
            return false;
        }
        for (guint k = 0; k < i; k++) {
            if (strcmp(c->cell->pdata[k], text) == 0) {
                return false;
            }
        }
    }
    return c->cell->len > 0;
}
