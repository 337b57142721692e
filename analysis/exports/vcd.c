/* A recording as a value change dump (IEEE 1364-2005, 18): time in microseconds, and what has changed. Numbers are
 * reals; a number that was not to be used for a time has a wire beside it that says when it was good. Names are
 * strings, and a rule that fires is an event. Strings go beyond the standard; wave viewers take them. */
#include "exports.h"

#include <string.h>

#define FIRST_CODE 33 /* of the printable characters */
#define CODES      94

typedef struct dump {
    const rgp_recording *r;
    GArray *column;
    bool *was_bad; /* by column: of a number, ever */
    uint32_t rules;
    guint next_event;
    FILE *to;
    bool timed; /* the time of this row is written */
} dump;

/* The short code of a variable: columns, the wires beside them, rules, marks. */
static const char *code_of(uint32_t number, char to[8])
{
    int length = 0;
    do {
        to[length++] = (char)(FIRST_CODE + number % CODES);
        number /= CODES;
    } while (number > 0);
    to[length] = '\0';
    return to;
}

static const rgp_export_column *column_at(const dump *d, guint i)
{
    return &g_array_index(d->column, rgp_export_column, i);
}

static uint32_t good_wire(const dump *d, guint column)
{
    return d->column->len + column;
}

static uint32_t rule_event(const dump *d, uint32_t rule)
{
    return 2 * d->column->len + rule;
}

static uint32_t marks(const dump *d)
{
    return 2 * d->column->len + d->rules;
}

static bool is_usable(const dump *d, const rgp_export_column *c, uint32_t row)
{
    return rgp_usable(rgp_history_quality(d->r->history, c->column, row));
}

static void find_bad(dump *d)
{
    d->was_bad = g_new0(bool, d->column->len + 1);
    for (guint i = 0; i < d->column->len; i++) {
        const rgp_export_column *c = column_at(d, i);
        for (uint32_t row = 0; row < d->r->rows && c->kind == RGP_COLUMN_NUMBER && !d->was_bad[i]; row++) {
            d->was_bad[i] = !is_usable(d, c, row);
        }
    }
}

/* ---- the head -------------------------------------------------------------------------------------- */

static void put_variables(const dump *d, const rgp_export *ask)
{
    static const char *const type[] = {"real 64", "wire 1", "string 1"};
    char code[8];
    for (guint i = 0; i < d->column->len; i++) {
        const rgp_export_column *c = column_at(d, i);
        rgp_export_renamed(ask, c->name, c->plain);
        if (*c->unit) {
            fprintf(d->to, "$comment %s in %s $end\n", c->plain, c->unit);
        }
        fprintf(d->to, "$var %s %s %s $end\n", type[c->kind], code_of(i, code), c->plain);
        if (d->was_bad[i]) {
            fprintf(d->to, "$var wire 1 %s %s__good $end\n", code_of(good_wire(d, i), code), c->plain);
        }
    }
    for (uint32_t i = 0; i < d->rules; i++) {
        fprintf(d->to, "$var event 1 %s fires_line_%u $end\n", code_of(rule_event(d, i), code),
                rgp_image_name_of(d->r->image, RGP_NAME_RULE, i, 0)->line);
    }
    fprintf(d->to, "$var string 1 %s marks $end\n", code_of(marks(d), code));
}

static void put_head(const dump *d, const rgp_export *ask)
{
    g_autofree char *rig = g_strdup(rgp_image_text(d->r->image, RGP_NAME_RIG, 0, 0));
    g_strcanon(rig, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_", '_');
    fprintf(d->to, "$version rigpulse $end\n$timescale 1 us $end\n$scope module %s $end\n", rig);
    put_variables(d, ask);
    fprintf(d->to, "$upscope $end\n$enddefinitions $end\n");
}

/* ---- changes --------------------------------------------------------------------------------------- */

static void put_time(dump *d, uint32_t row)
{
    if (!d->timed) {
        fprintf(d->to, "#%" G_GUINT64_FORMAT "\n%s", rgp_recording_time_us(d->r, row), row == 0 ? "$dumpvars\n" : "");
        d->timed = true;
    }
}

/* A string of a dump has no blank. */
static void put_string(dump *d, uint32_t row, const char *text, uint32_t variable)
{
    char code[8];
    put_time(d, row);
    fputc('s', d->to);
    for (const char *at = text; *at; at++) {
        fputc(g_ascii_isspace(*at) || g_ascii_iscntrl(*at) ? '_' : *at, d->to);
    }
    fprintf(d->to, " %s\n", code_of(variable, code));
}

static bool has_changed(const dump *d, const rgp_export_column *c, uint32_t row)
{
    const rgp_history *h = d->r->history;
    return row == 0 || rgp_history_value(h, c->column, row) != rgp_history_value(h, c->column, row - 1) ||
           is_usable(d, c, row) != is_usable(d, c, row - 1);
}

static void put_column(dump *d, guint i, uint32_t row)
{
    const rgp_export_column *c = column_at(d, i);
    const bool usable = is_usable(d, c, row);
    const double value = (double)rgp_history_value(d->r->history, c->column, row);
    char code[8], number[G_ASCII_DTOSTR_BUF_SIZE];
    if (!has_changed(d, c, row)) {
        return;
    }
    put_time(d, row);
    if (c->kind == RGP_COLUMN_SWITCH) {
        fprintf(d->to, "%c%s\n", !usable ? 'x' : value != 0.0 ? '1' : '0', code_of(i, code));
    } else if (c->kind == RGP_COLUMN_NAMES) {
        const char *word = rgp_export_word(d->r, c, row);
        put_string(d, row, word ? word : "-", i);
    } else {
        fprintf(d->to, "r%s %s\n", g_ascii_formatd(number, sizeof number, "%.9g", value), code_of(i, code));
    }
    if (d->was_bad[i] && (row == 0 || usable != is_usable(d, c, row - 1))) {
        fprintf(d->to, "%d%s\n", usable, code_of(good_wire(d, i), code));
    }
}

static void put_event(dump *d, const rgp_occurrence *o, uint32_t row)
{
    char code[8];
    for (uint32_t i = 0; i < d->rules && o->kind == RGP_EVENT_FIRED; i++) {
        if (rgp_image_name_of(d->r->image, RGP_NAME_RULE, i, 0)->line == o->line) {
            put_time(d, row);
            fprintf(d->to, "1%s\n", code_of(rule_event(d, i), code));
        }
    }
    if (o->kind == RGP_EVENT_MARK) {
        put_string(d, row, o->of, marks(d));
    }
}

/* Those that are not behind this row, which is the one that they belong to. */
static void put_events(dump *d, uint32_t row)
{
    const GPtrArray *all = rgp_history_occurrences(d->r->history);
    for (; d->next_event < all->len; d->next_event++) {
        const rgp_occurrence *o = all->pdata[d->next_event];
        if (o->row > row) {
            break;
        }
        put_event(d, o, row);
    }
}

bool rgp_export_vcd(const rgp_export *ask, GError **error)
{
    dump d = {.r = ask->recording, .rules = rgp_image_count(ask->recording->image, RGP_SECTION_RULES)};
    d.to = rgp_export_open(ask->path, error);
    if (!d.to) {
        return false;
    }
    d.column = rgp_export_columns(d.r);
    find_bad(&d);
    put_head(&d, ask);
    for (uint32_t row = 0; row < d.r->rows; row++) {
        d.timed = false;
        for (guint i = 0; i < d.column->len; i++) {
            put_column(&d, i, row);
        }
        if (row == 0) { /* all of them have a value in the first one */
            fputs("$end\n", d.to);
        }
        put_events(&d, row);
    }
    g_array_unref(d.column);
    g_free(d.was_bad);
    return rgp_export_close(d.to, ask->path, error);
}
