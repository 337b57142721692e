/* A recording as one JSON document (RFC 8259): what it is, its columns, its rows column by column, its events. What is
 * not to be used is null. */
#include "exports.h"

#include <jansson.h>
#include <stdlib.h>

static void put_text(FILE *to, const char *text)
{
    json_t *is = json_string(text);
    char *quoted = is ? json_dumps(is, JSON_ENCODE_ANY) : NULL;
    fputs(quoted ? quoted : "null", to);
    free(quoted);
    json_decref(is);
}

static void put_cell(FILE *to, const rgp_recording *r, const rgp_export_column *c, uint32_t row)
{
    char number[G_ASCII_DTOSTR_BUF_SIZE];
    const char *word = c->kind == RGP_COLUMN_NUMBER ? NULL : rgp_export_word(r, c, row);
    if (!rgp_usable(rgp_history_quality(r->history, c->column, row))) {
        fputs("null", to);
    } else if (c->kind == RGP_COLUMN_NUMBER) {
        fputs(g_ascii_formatd(number, sizeof number, "%.9g", (double)rgp_history_value(r->history, c->column, row)),
              to);
    } else if (c->kind == RGP_COLUMN_SWITCH) {
        fputs(rgp_history_value(r->history, c->column, row) != 0.0f ? "true" : "false", to);
    } else {
        put_text(to, word ? word : "");
    }
}

static void put_column(FILE *to, const rgp_recording *r, const rgp_export_column *c)
{
    fputs("    {\"name\": ", to);
    put_text(to, c->name);
    fputs(", \"unit\": ", to);
    put_text(to, c->unit);
    fputs(", \"values\": [", to);
    for (uint32_t row = 0; row < r->rows; row++) {
        fputs(row ? "," : "", to);
        put_cell(to, r, c, row);
    }
    fputs("]}", to);
}

static void put_times(FILE *to, const rgp_recording *r)
{
    fputs("  \"time_us\": [", to);
    for (uint32_t row = 0; row < r->rows; row++) {
        fprintf(to, "%s%" G_GUINT64_FORMAT, row ? "," : "", rgp_recording_time_us(r, row));
    }
    fputs("],\n", to);
}

static void put_events(FILE *to, const rgp_recording *r)
{
    const GPtrArray *all = rgp_history_occurrences(r->history);
    fputs("  \"events\": [", to);
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *o = all->pdata[i];
        json_t *is = json_pack("{s:f, s:s, s:s, s:i, s:s?}", "t", o->time, "event", rgp_event_word(o->kind), "of",
                               o->of, "line", (int)o->line, "says", o->says);
        char *line = is ? json_dumps(is, JSON_COMPACT | JSON_REAL_PRECISION(12)) : NULL;
        fprintf(to, "%s\n    %s", i ? "," : "", line ? line : "null");
        free(line);
        json_decref(is);
    }
    fputs("\n  ],\n", to);
}

bool rgp_export_json(const rgp_export *ask, GError **error)
{
    const rgp_recording *r = ask->recording;
    FILE *to = rgp_export_open(ask->path, error);
    if (!to) {
        return false;
    }
    g_autoptr(GArray) columns = rgp_export_columns(r);
    fputs("{\n  \"rig\": ", to);
    put_text(to, rgp_image_text(r->image, RGP_NAME_RIG, 0, 0));
    fprintf(to, ",\n  \"tick_us\": %u,\n  \"seed\": %" G_GUINT64_FORMAT ",\n  \"ending\": ", r->image->tick_us,
            r->seed);
    put_text(to, r->ending);
    fputs(",\n  \"text\": ", to);
    put_text(to, r->rig->source);
    fputs(",\n", to);
    put_times(to, r);
    put_events(to, r);
    fputs("  \"columns\": [\n", to);
    for (guint i = 0; i < columns->len; i++) {
        put_column(to, r, &g_array_index(columns, rgp_export_column, i));
        fputs(i + 1 < columns->len ? ",\n" : "\n", to);
    }
    fputs("  ]\n}\n", to);
    return rgp_export_close(to, ask->path, error);
}
