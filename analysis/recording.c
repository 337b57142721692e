#include "recording.h"

#include <csv.h>
#include <gio/gio.h>
#include <jansson.h>
#include <math.h>
#include <string.h>

enum { COLUMN_TIME = -1, COLUMN_NOT_GOOD = -2, COLUMN_OTHER = -3 };

typedef struct table_reading {
    rp_recording *to;
    GArray *slot_of;        /* by column: a slot or COLUMN_... */
    GHashTable *slot_named; /* name -> slot + 1 */
    GArray *time, **value, **quality;
    uint32_t columns; /* in this row so far */
    uint64_t row;
    double now;
    bool torn;
} table_reading;

static bool not_a_recording(GError **error, const char *name, const char *why)
{
    g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_DATA, "%s: this is not a recording: %s", name, why);
    return false;
}

/* ---- the table ----------------------------------------------------------------------------------- */

static void take_heading(table_reading *r, const char *text)
{
    g_autofree char *name = g_strdup(text);
    char *unit = strstr(name, " [");
    int32_t column = COLUMN_OTHER;
    if (unit) {
        *unit = '\0';
    }
    const int32_t slot = GPOINTER_TO_INT(g_hash_table_lookup(r->slot_named, name)) - 1;
    if (strcmp(text, "time [s]") == 0) {
        column = COLUMN_TIME;
    } else if (strcmp(text, "not good") == 0) {
        column = COLUMN_NOT_GOOD;
    } else if (slot >= 0) {
        column = slot;
        r->value[slot] = g_array_new(FALSE, TRUE, sizeof(float));
        r->quality[slot] = g_array_new(FALSE, TRUE, sizeof(rp_quality));
    }
    g_array_append_val(r->slot_of, column);
}

static void take_value(table_reading *r, uint32_t slot, const char *text)
{
    const rp_image_header *image = r->to->image;
    char *end;
    float value = (float)g_ascii_strtod(text, &end);
    if (end == text || *end != '\0') {
        uint32_t part = 0;
        while (rp_image_name_of(image, RP_NAME_PART, slot, part) &&
               strcmp(rp_image_text(image, RP_NAME_PART, slot, part), text) != 0) {
            part++;
        }
        r->torn |= !rp_image_name_of(image, RP_NAME_PART, slot, part);
        value = (float)part;
    }
    r->torn |= !isfinite(value);
    g_array_append_val(r->value[slot], value);
}

/* "level: late; depth: late" */
static void take_not_good(table_reading *r, const char *text)
{
    g_auto(GStrv) each = g_strsplit(text, "; ", -1);
    for (char **e = each; *e; e++) {
        char *colon = strstr(*e, ": ");
        if (!colon) {
            continue;
        }
        *colon = '\0';
        const int32_t slot = GPOINTER_TO_INT(g_hash_table_lookup(r->slot_named, *e)) - 1;
        for (int q = RP_GOOD; q < RP_QUALITIES; q++) {
            if (slot >= 0 && r->quality[slot] && strcmp(rp_quality_text((rp_quality)q), colon + 2) == 0 &&
                r->quality[slot]->len > 0) {
                g_array_index(r->quality[slot], rp_quality, r->quality[slot]->len - 1) = (rp_quality)q;
            }
        }
    }
}

static void open_row(table_reading *r)
{
    const rp_quality good = RP_GOOD;
    for (uint32_t slot = 0; slot < r->to->image->slots; slot++) {
        if (r->quality[slot]) {
            g_array_append_val(r->quality[slot], good);
        }
    }
}

static void take_field(void *field, size_t length, void *self)
{
    table_reading *r = self;
    g_autofree char *text = g_strndup(field, length);
    if (r->row == 0) {
        take_heading(r, text);
        return;
    }
    if (r->columns == 0) {
        open_row(r);
    }
    const int32_t column = r->columns < r->slot_of->len ? g_array_index(r->slot_of, int32_t, r->columns) : COLUMN_OTHER;
    r->columns++;
    if (column >= 0) {
        take_value(r, (uint32_t)column, text);
    } else if (column == COLUMN_TIME) {
        char *end;
        r->now = g_ascii_strtod(text, &end);
        r->torn |= end == text || *end != '\0' || !(r->now >= 0.0 && r->now < 1e12);
    } else if (column == COLUMN_NOT_GOOD) {
        take_not_good(r, text);
    }
}

/* A row that was cut off is taken back. */
static void take_row(int ending, void *self)
{
    table_reading *r = self;
    if (r->row++ == 0) {
        return;
    }
    const bool whole = ending >= 0 && r->columns == r->slot_of->len && !r->torn;
    const guint rows = r->time->len + (whole ? 1u : 0u);
    if (whole) {
        const uint64_t time_us = (uint64_t)llround(r->now * 1e6);
        g_array_append_val(r->time, time_us);
    } else if (r->columns > 0) {
        r->to->torn_rows++;
    }
    for (uint32_t slot = 0; slot < r->to->image->slots; slot++) {
        if (r->value[slot]) {
            g_array_set_size(r->value[slot], rows);
            g_array_set_size(r->quality[slot], rows);
        }
    }
    r->columns = 0;
    r->torn = false;
}

static void name_slots(table_reading *r)
{
    const rp_image_header *image = r->to->image;
    r->slot_named = g_hash_table_new(g_str_hash, g_str_equal);
    for (uint32_t slot = 0; slot < image->slots; slot++) {
        if (rp_image_name_of(image, RP_NAME_SLOT, slot, 0)) {
            g_hash_table_insert(r->slot_named, (void *)rp_image_text(image, RP_NAME_SLOT, slot, 0),
                                GINT_TO_POINTER((int)slot + 1));
        }
    }
}

static void parse_table(table_reading *r, const char *text, gsize length)
{
    struct csv_parser parser;
    csv_init(&parser, CSV_APPEND_NULL);
    csv_parse(&parser, text, length, take_field, take_row, r);
    r->torn |= length > 0 && text[length - 1] != '\n';
    csv_fini(&parser, take_field, take_row, r);
    csv_free(&parser);
}

/* The columns become the recording's. */
static void hand_over(table_reading *r)
{
    rp_recording *to = r->to;
    const uint32_t slots = to->image->slots;
    to->rows = r->time->len;
    to->time_us = (uint64_t *)(void *)g_array_free(r->time, FALSE);
    to->value = g_new0(float *, slots);
    to->quality = g_new0(rp_quality *, slots);
    for (uint32_t slot = 0; slot < slots; slot++) {
        if (r->value[slot]) {
            to->value[slot] = (float *)(void *)g_array_free(r->value[slot], FALSE);
            to->quality[slot] = (rp_quality *)g_array_free(r->quality[slot], FALSE);
        }
    }
}

static bool read_table(rp_recording *to, GError **error)
{
    g_autofree char *path = g_strconcat(to->name, ".csv", NULL);
    g_autofree char *text = NULL;
    gsize length = 0;
    if (!g_file_get_contents(path, &text, &length, error)) {
        return false;
    }
    g_autofree GArray **value = g_new0(GArray *, to->image->slots), **quality = g_new0(GArray *, to->image->slots);
    table_reading r = {.to = to,
                       .slot_of = g_array_new(FALSE, FALSE, sizeof(int32_t)),
                       .time = g_array_new(FALSE, FALSE, sizeof(uint64_t)),
                       .value = value,
                       .quality = quality};
    name_slots(&r);
    parse_table(&r, text, length);
    hand_over(&r);
    g_array_unref(r.slot_of);
    g_hash_table_unref(r.slot_named);
    return to->rows > 0 || not_a_recording(error, path, "it has no row of readings");
}

/* ---- the other two files ------------------------------------------------------------------------- */

static bool read_summary(rp_recording *to, GError **error)
{
    g_autofree char *path = g_strconcat(to->name, ".json", NULL);
    g_autofree char *text = NULL;
    gsize length = 0;
    if (!g_file_get_contents(path, &text, &length, error)) {
        return false;
    }
    json_t *summary = json_loadb(text, length, 0, NULL);
    json_int_t format = 0, seed = 0, gaps = 0;
    const char *ending, *file, *rig_text;
    size_t rig_length;
    const bool whole =
        summary && json_unpack(summary, "{s:I, s:I, s:I, s:s, s:s, s:s%}", "recording", &format, "seed", &seed, "gaps",
                               &gaps, "ending", &ending, "rig_file", &file, "rig_text", &rig_text, &rig_length) == 0;
    bool sound = whole && format == 1;
    if (!sound) {
        not_a_recording(error, path, whole ? "it is of a later version" : "it is not the JSON file of a recording");
    } else {
        to->seed = (uint64_t)seed;
        to->gaps = (uint64_t)gaps;
        to->ending = g_strdup(ending);
        to->rig = rp_rig_compile(file, rig_text, rig_length, NULL);
        sound = (to->rig && to->rig->image) || not_a_recording(error, path, "the rig's text in it has errors");
        to->image = sound ? to->rig->image : NULL;
    }
    json_decref(summary);
    return sound;
}

static void read_events(rp_recording *to)
{
    g_autofree char *path = g_strconcat(to->name, ".events.jsonl", NULL);
    g_autofree char *text = NULL;
    to->event = g_array_new(FALSE, FALSE, sizeof(rp_recorded_event));
    if (!g_file_get_contents(path, &text, NULL, NULL)) {
        return;
    }
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    for (char **line = lines; *line; line++) {
        json_t *event = json_loads(*line, 0, NULL);
        rp_recorded_event e = {0};
        const char *kind, *of, *says;
        int rig_line = 0;
        if (event && json_unpack(event, "{s:F, s:s, s:s, s:s, s?i}", "t", &e.time, "event", &kind, "of", &of, "says",
                                 &says, "line", &rig_line) == 0) {
            e.kind = g_strdup(kind);
            e.of = g_strdup(of);
            e.says = g_strdup(says);
            e.line = rig_line > 0 ? (uint32_t)rig_line : 0;
            g_array_append_val(to->event, e);
        }
        json_decref(event);
    }
}

static char *stem_of(const char *name)
{
    static const char *const endings[] = {".events.jsonl", ".csv", ".json"};
    for (size_t i = 0; i < G_N_ELEMENTS(endings); i++) {
        if (g_str_has_suffix(name, endings[i])) {
            return g_strndup(name, strlen(name) - strlen(endings[i]));
        }
    }
    return g_strdup(name);
}

rp_recording *rp_recording_read(const char *name, GError **error)
{
    rp_recording *r = g_new0(rp_recording, 1);
    r->name = stem_of(name);
    if (!read_summary(r, error) || !read_table(r, error)) {
        rp_recording_free(r);
        return NULL;
    }
    read_events(r);
    return r;
}

void rp_recording_free(rp_recording *r)
{
    if (!r) {
        return;
    }
    for (guint i = 0; r->event && i < r->event->len; i++) {
        const rp_recorded_event *e = &g_array_index(r->event, rp_recorded_event, i);
        g_free(e->kind);
        g_free(e->of);
        g_free(e->says);
    }
    if (r->event) {
        g_array_unref(r->event);
    }
    for (uint32_t slot = 0; r->value && slot < r->image->slots; slot++) {
        g_free(r->value[slot]);
        g_free(r->quality[slot]);
    }
    g_free(r->value);
    g_free(r->quality);
    g_free(r->time_us);
    g_free(r->name);
    g_free(r->ending);
    rp_rig_free(r->rig);
    g_free(r);
}
