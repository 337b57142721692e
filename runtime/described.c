/* A rig made of the columns that a recording describes, for one whose own text does not compile any more: each column
 * is a channel or a parameter of its name, unit and names, and nothing is computed. */
#include "recording_parts.h"

#include <string.h>

#define ROUNDS_MOST 1000 /* each makes a column plainer, of some thousands at most */

/* Three ways to name a column in the text: its own name, its name with an ending if that is no valid name, no name at
 * all: the column is left out. */
enum { AS_IT_IS, WITH_ENDING, LEFT_OUT };

typedef struct described {
    const json_t *columns;
    const char *name; /* of the rig */
    double tick_ms;
    GPtrArray *unit; /* that are declared */
    guint8 *level;   /* by column */
} described;

static const char *text_of(const json_t *column, const char *key)
{
    const char *text = json_string_value(json_object_get(column, key));
    return text ? text : "";
}

static bool is_name(const char *text)
{
    return g_regex_match_simple("^[A-Za-z_][A-Za-z0-9_]*$", text, 0, 0);
}

static bool is_known_unit(const char *unit)
{
    g_autofree char *text = g_strdup_printf("rig x\ntick 1 ms\nparam a = 0 %s in 0 %s..1 %s\n", unit, unit, unit);
    rgp_rig *rig =
        g_regex_match_simple("^[^\\s#\"]+$", unit, 0, 0) ? rgp_rig_compile("", text, strlen(text), NULL) : NULL;
    const bool known = rig && rig->image;
    rgp_rig_free(rig);
    return known;
}

/* The unit as it can be written, one of the rig's own declared before; "" when it cannot. */
static const char *unit_of(described *d, const char *unit)
{
    if (is_known_unit(unit)) {
        return unit;
    }
    if (!is_name(unit)) { /* also of one that is made of the rig's own */
        return "";
    }
    for (guint i = 0; i < d->unit->len; i++) {
        if (strcmp(d->unit->pdata[i], unit) == 0) {
            return unit;
        }
    }
    g_ptr_array_add(d->unit, (gpointer)unit);
    return unit;
}

/* "names low, mid"; "switch"; NULL: it holds numbers. */
static char *names_of(const json_t *column)
{
    const json_t *names = json_object_get(column, "names");
    GString *all = g_string_new(NULL);
    size_t i;
    json_t *one;
    json_array_foreach(names, i, one)
    {
        const char *text = json_string_value(one);
        g_string_append_printf(all, "%s%s", i ? ", " : "names ", text && is_name(text) ? text : "?");
    }
    if (strcmp(all->str, "names off, on") == 0) {
        g_string_assign(all, "switch");
    }
    return g_string_free(all, all->len == 0);
}

static void write_column(described *d, const json_t *column, guint8 level, GString *to)
{
    const char *kind = text_of(column, "kind"), *unit = unit_of(d, text_of(column, "unit"));
    g_autofree char *names = names_of(column);
    const bool driven = strcmp(kind, "actuator") == 0;
    const bool read = names || (strcmp(kind, "sensor") == 0 && *unit);
    g_autofree char *name =
        g_strconcat(is_name(text_of(column, "name")) ? text_of(column, "name") : "?", level ? "_" : "", NULL);
    if (driven && names) {
        const json_t *first = json_array_get(json_object_get(column, "names"), 0);
        g_string_append_printf(to, "actuator %s %s, rest at %s\n", name, names, json_string_value(first));
    } else if (driven && *unit) {
        const bool percent = strcmp(unit, "%") == 0;
        g_string_append_printf(to, "actuator %s %s %s, rest at 0\n", name, percent ? "percent" : unit,
                               percent ? "-100..100" : "-1e6..1e6");
    } else if (read) {
        g_string_append_printf(to, "sensor %s %s%s\n", name, names ? names : unit,
                               names ? "" : " -2000000000..2000000000");
    } else {
        g_string_append_printf(to, "param %s = 0 %s in -1e30 %s..1e30 %s\n", name, unit, unit, unit);
    }
}

/* A line for each column, also for one that is left out, so that a message tells which one it is about; the lines above
 * it are `first`. */
static char *write_rig(described *d, guint *first)
{
    g_autoptr(GString) columns = g_string_new(NULL);
    size_t i;
    json_t *column;
    json_array_foreach(d->columns, i, column)
    {
        if (d->level[i] == LEFT_OUT) {
            g_string_append_c(columns, '\n');
        } else {
            write_column(d, column, d->level[i], columns);
        }
    }
    GString *text = g_string_new(NULL);
    g_string_printf(text, "rig %s\ntick %.6g ms\n", is_name(d->name) ? d->name : "unknown", d->tick_ms);
    for (guint k = 0; k < d->unit->len; k++) {
        g_string_append_printf(text, "unit %s\n", (const char *)d->unit->pdata[k]);
    }
    *first = 2 + d->unit->len;
    g_string_append(text, columns->str);
    return g_string_free(text, FALSE);
}

/* Makes each column plainer of which the compiler complains. False: no column can become plainer. */
static bool make_plainer(described *d, const rgp_rig *rig, guint first)
{
    const size_t columns = json_array_size(d->columns);
    size_t last = columns; /* one step for each, however much is wrong with it; messages are in the order of lines */
    bool plainer = false;
    for (uint32_t i = 0; i < rig->messages; i++) {
        const rgp_message *m = &rig->message[i];
        const size_t which = m->line > first ? m->line - first - 1 : columns;
        if (!m->warning && which < columns && which != last && d->level[which] < LEFT_OUT) {
            d->level[which]++;
            last = which;
            plainer = true;
        }
    }
    return plainer;
}

/* "; without tide, harbour" */
static char *left_out(const described *d)
{
    GString *told = g_string_new(NULL);
    size_t i;
    json_t *column;
    json_array_foreach(d->columns, i, column)
    {
        if (d->level[i] == LEFT_OUT) {
            g_string_append_printf(told, "%s%s", told->len ? ", " : "; without ", text_of(column, "name"));
        }
    }
    return rgp_make_printable(g_string_free(told, FALSE), false);
}

rgp_rig *rgp_rig_of_columns(const char *file, const json_t *summary, char **without)
{
    const json_t *columns = json_object_get(summary, "columns");
    described d = {.columns = columns,
                   .name = text_of(summary, "rig"),
                   .tick_ms = json_number_value(json_object_get(summary, "tick_us")) / 1e3,
                   .unit = g_ptr_array_new(),
                   .level = g_new0(guint8, json_array_size(columns) + 1)};
    rgp_rig *rig = NULL;
    bool goes_on = json_array_size(columns) > 0;
    for (guint round = 0; goes_on && round < ROUNDS_MOST; round++) {
        guint first;
        g_autofree char *text = write_rig(&d, &first);
        rgp_rig_free(rig);
        rig = rgp_rig_compile(file, text, strlen(text), NULL);
        goes_on = rig && !rig->image && make_plainer(&d, rig, first);
    }
    *without = left_out(&d);
    g_ptr_array_unref(d.unit);
    g_free(d.level);
    if (rig && !rig->image) {
        rgp_rig_free(rig);
        rig = NULL;
    }
    return rig;
}
