/* The reader of recordings: the table into a history, the events, the timers of rules worked out again. */
#include "recording.h"

#include "files/files.h"
#include "circumstances.h"
#include "former.h"
#include "rule_timers.h"
#include "explain/describe.h"

#include <csv.h>
#include <gio/gio.h>
#include <jansson.h>
#include <math.h>
#include <string.h>

#define FLOAT_COUNTS 16777216.0f /* a float holds each whole number below */
#define TOLD_LETTERS 120         /* of what is wrong with a row */

enum { COLUMN_TIME = -1, COLUMN_NOT_GOOD = -2, COLUMN_SAMPLES = -3, COLUMN_OTHER = -4 };

typedef struct table_reading {
    rgp_recording *to;
    GArray *column_of;        /* by field: a column of the history or COLUMN_... */
    GHashTable *column_named; /* name -> column + 1 */
    GHashTable *owner_named;  /* "2 line 14" (actuator 2) -> owner + 1 */
    float *value;             /* of the row that is being read, by column */
    rgp_quality *quality;
    uint32_t fields; /* in this row so far */
    uint64_t row;
    double now, before;
    char *samples; /* of this row; NULL: none were told */
    char *torn;    /* what is wrong with this row; NULL: nothing */
} table_reading;

static bool not_a_recording(GError **error, const char *name, const char *why)
{
    g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_DATA, "%s: this is not a recording: %s", name, why);
    return false;
}

/* ---- the table ----------------------------------------------------------------------------------- */

static int32_t named(GHashTable *table, const char *name)
{
    return GPOINTER_TO_INT(g_hash_table_lookup(table, name)) - 1;
}

static char *owner_key(uint32_t actuator, const char *text)
{
    return g_strdup_printf("%u %s", actuator, text);
}

static void take_heading(table_reading *r, const char *text)
{
    g_autofree char *name = g_strdup(text);
    char *unit = strstr(name, " [");
    int32_t column = COLUMN_OTHER;
    if (unit) {
        *unit = '\0';
    }
    const int32_t known = named(r->column_named, name);
    if (strcmp(text, "time [s]") == 0) {
        column = COLUMN_TIME;
    } else if (strcmp(text, "not good") == 0) {
        column = COLUMN_NOT_GOOD;
    } else if (strcmp(text, "samples") == 0) {
        column = COLUMN_SAMPLES;
    } else if (known >= 0) {
        column = known;
        for (uint32_t slot = 0; slot < r->to->image->slots; slot++) {
            r->to->has[slot] |= rgp_history_slot(r->to->history, slot) == known;
        }
    }
    g_array_append_val(r->column_of, column);
}

/* The slot whose column it is; the number of slots when it is none. */
static uint32_t slot_of(const table_reading *r, int32_t column)
{
    uint32_t slot = 0;
    while (slot < r->to->image->slots && rgp_history_slot(r->to->history, slot) != column) {
        slot++;
    }
    return slot;
}

/* The first thing that is wrong with a row is what is told. */
static void G_GNUC_PRINTF(2, 3) tear(table_reading *r, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    if (!r->torn) {
        g_autofree char *whole = rgp_make_printable(g_strdup_vprintf(format, arguments), false);
        r->torn = g_utf8_substring(whole, 0, MIN(g_utf8_strlen(whole, -1), TOLD_LETTERS));
    }
    va_end(arguments);
}

static void count_torn(table_reading *r)
{
    if (r->to->torn_rows++ == 0) {
        r->to->torn = g_strdup_printf("row %" G_GUINT64_FORMAT ": %s", r->row, r->torn);
    }
}

/* A reading that a float does not hold to the count. A row that is torn behind it leaves it without effect: the next
 * row of that number says its own. */
static void take_whole(const table_reading *r, int32_t column, const char *text)
{
    const uint32_t slot = slot_of(r, column), first = rgp_image_sensor_slot(r->to->image, 0);
    const gint64 raw = g_ascii_strtoll(text, NULL, 10);
    if (slot >= first && slot - first < rgp_image_count(r->to->image, RGP_SECTION_SENSORS) && raw >= INT32_MIN &&
        raw <= INT32_MAX) {
        rgp_inputs_whole(r->to->inputs, (uint32_t)rgp_history_end(r->to->history), (uint16_t)(slot - first),
                         (int32_t)raw);
    }
}

static void take_value(table_reading *r, int32_t column, const char *text)
{
    const rgp_image_header *image = r->to->image;
    char *end;
    float value = (float)g_ascii_strtod(text, &end);
    if ((uint32_t)column >= rgp_history_owner(r->to->history, 0)) {
        g_autofree char *key = owner_key((uint32_t)column - rgp_history_owner(r->to->history, 0), text);
        value = (float)named(r->owner_named, key);
        if (value < 0.0f) {
            tear(r, "nothing that drives is called '%s'", text);
        }
    } else if (end == text || *end != '\0') {
        const uint32_t slot = slot_of(r, column);
        uint32_t part = 0;
        while (rgp_image_name_of(image, RGP_NAME_PART, slot, part) &&
               strcmp(rgp_image_text(image, RGP_NAME_PART, slot, part), text) != 0) {
            part++;
        }
        if (!rgp_image_name_of(image, RGP_NAME_PART, slot, part)) {
            tear(r, "'%s' is no number", text);
        }
        value = (float)part;
    }
    if (fabsf(value) >= FLOAT_COUNTS && end != text && *end == '\0') {
        take_whole(r, column, text);
    }
    if (!isfinite(value)) {
        tear(r, "'%s' is no number", text);
        value = 0.0f;
    }
    r->value[column] = value;
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
        const int32_t column = named(r->column_named, *e);
        for (int q = RGP_GOOD; q < RGP_QUALITIES; q++) {
            if (column >= 0 && strcmp(rgp_quality_text((rgp_quality)q), colon + 2) == 0) {
                r->quality[column] = (rgp_quality)q;
            }
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
    if (r->fields == 0) {
        const uint32_t newness = rgp_history_newness(r->to->history, 0);
        memset(r->quality, RGP_GOOD, newness);
        memset(r->quality + newness, RGP_MISSING, rgp_history_columns(r->to->history) - newness);
    }
    const int32_t column =
        r->fields < r->column_of->len ? g_array_index(r->column_of, int32_t, r->fields) : COLUMN_OTHER;
    r->fields++;
    if (column >= 0) {
        take_value(r, column, text);
    } else if (column == COLUMN_TIME) {
        char *end;
        r->now = g_ascii_strtod(text, &end);
        if (end == text || *end != '\0' || !(r->now >= 0.0 && r->now < 1e12)) {
            tear(r, "'%s' is no time in seconds", text);
        } else if (!(r->now > r->before)) {
            tear(r, "its time %s is not behind that of the row before", text);
        }
    } else if (column == COLUMN_NOT_GOOD) {
        take_not_good(r, text);
    } else if (column == COLUMN_SAMPLES && *text) {
        r->samples = g_steal_pointer(&text);
    }
}

/* A row that was cut off is left out. */
static void take_row(int ending, void *self)
{
    table_reading *r = self;
    if (r->row++ == 0) {
        return;
    }
    if (r->fields != r->column_of->len || ending < 0) {
        tear(r, "it is cut off, or not of %u columns", r->column_of->len);
    }
    const uint32_t row = (uint32_t)rgp_history_end(r->to->history);
    if (!r->torn && r->samples && !rgp_inputs_samples(r->to->inputs, r->to->image, row, r->samples)) {
        tear(r, "'%s' says nothing of samples", r->samples);
    }
    if (!r->torn) {
        rgp_history_row(r->to->history, (uint64_t)llround(r->now * 1e6), r->value, r->quality);
        r->before = r->now;
    } else if (r->fields > 0) {
        count_torn(r);
    }
    r->fields = 0;
    g_clear_pointer(&r->samples, g_free);
    g_clear_pointer(&r->torn, g_free);
}

static void name_owner(table_reading *r, uint32_t actuator, uint16_t owner)
{
    g_autoptr(GString) text = g_string_new(NULL);
    rgp_describe_owner(r->to->image, owner, text);
    g_hash_table_insert(r->owner_named, owner_key(actuator, text->str), GINT_TO_POINTER((int)owner + 1));
}

static void name_columns(table_reading *r)
{
    const rgp_image_header *image = r->to->image;
    r->column_named = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    r->owner_named = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    for (uint32_t slot = 0; slot < image->slots; slot++) {
        const int32_t column = rgp_history_slot(r->to->history, slot);
        if (column >= 0) {
            g_hash_table_insert(r->column_named, g_strdup(rgp_image_text(image, RGP_NAME_SLOT, slot, 0)),
                                GINT_TO_POINTER(column + 1));
        }
    }
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_ACTUATORS); i++) {
        const char *name = rgp_image_text(image, RGP_NAME_SLOT, rgp_image_actuator_slot(image, i), 0);
        g_hash_table_insert(r->column_named, g_strconcat(name, " owner", NULL),
                            GINT_TO_POINTER((int)rgp_history_owner(r->to->history, i) + 1));
    }
    const rgp_image_claim *claim = rgp_image_at(image, RGP_SECTION_CLAIMS);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_CLAIMS); i++) {
        name_owner(r, claim[i].actuator, (uint16_t)i);
    }
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_ACTUATORS); i++) {
        name_owner(r, i, RGP_OWNER_REST);
        name_owner(r, i, RGP_OWNER_STOP);
        name_owner(r, i, RGP_OWNER_GUARD);
    }
}

static void parse_table(table_reading *r, const char *text, gsize length)
{
    struct csv_parser parser;
    csv_init(&parser, CSV_APPEND_NULL | CSV_STRICT | CSV_STRICT_FINI);
    const bool read = csv_parse(&parser, text, length, take_field, take_row, r) == length;
    if (length > 0 && text[length - 1] != '\n') {
        tear(r, "it is cut off");
    }
    if (!read || csv_fini(&parser, take_field, take_row, r) != 0) {
        r->row++;
        g_clear_pointer(&r->torn, g_free);
        tear(r, read ? "a quote that opens here is not closed; what comes behind it is lost"
                     : "a quote stands where none may; what comes behind it is lost");
        count_torn(r);
    }
    g_clear_pointer(&r->samples, g_free);
    g_clear_pointer(&r->torn, g_free); /* of a row that was whole behind all */
    csv_free(&parser);
}

static bool has_time(const GArray *column_of)
{
    for (guint i = 0; i < column_of->len; i++) {
        if (g_array_index(column_of, int32_t, i) == COLUMN_TIME) {
            return true;
        }
    }
    return false;
}

static bool read_table(rgp_recording *to, GError **error)
{
    g_autofree char *path = g_strconcat(to->name, ".csv", NULL);
    g_autofree char *text = NULL;
    gsize length = 0;
    if (!rgp_file_read(path, &text, &length, error)) {
        return false;
    }
    to->history = rgp_history_new(to->image, 0);
    to->has = g_new0(bool, to->image->slots + 1);
    table_reading r = {.before = -1.0, .to = to, .column_of = g_array_new(FALSE, FALSE, sizeof(int32_t))};
    r.value = g_new0(float, rgp_history_columns(to->history) + 1);
    r.quality = g_new0(rgp_quality, rgp_history_columns(to->history) + 1);
    name_columns(&r);
    parse_table(&r, text, length);
    to->rows = (uint32_t)rgp_history_end(to->history);
    const bool timed = has_time(r.column_of);
    g_array_unref(r.column_of);
    g_hash_table_unref(r.column_named);
    g_hash_table_unref(r.owner_named);
    g_free(r.value);
    g_free(r.quality);
    if (!timed) {
        return not_a_recording(error, path, "its first row has no column 'time [s]'");
    }
    return to->rows > 0 || not_a_recording(error, path, to->torn ? to->torn : "it has no row of readings");
}

/* ---- the other two files ------------------------------------------------------------------------- */

/* A copy that can be shown; of NULL, NULL. */
static char *shown(const char *text)
{
    char *copy = g_strdup(text);
    return copy ? rgp_make_printable(copy, false) : NULL;
}

static bool read_summary(rgp_recording *to, GError **error)
{
    g_autofree char *path = g_strconcat(to->name, ".json", NULL);
    g_autofree char *text = NULL;
    gsize length = 0;
    g_autoptr(GError) problem = NULL;
    if (!rgp_file_read(path, &text, &length, &problem)) {
        if (g_error_matches(problem, G_IO_ERROR, G_IO_ERROR_NOT_FOUND)) {
            g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND, "%s: there is no recording of that name: %s", to->name,
                        problem->message);
        } else {
            g_propagate_error(error, g_steal_pointer(&problem));
        }
        return false;
    }
    json_t *summary = json_loadb(text, length, 0, NULL);
    json_int_t format = 0, seed = 0, gaps = 0;
    const char *ending, *file, *rig_text;
    size_t rig_length;
    const bool whole =
        summary && json_unpack(summary, "{s:I, s:I, s:I, s:s, s:s, s:s%}", "recording", &format, "seed", &seed, "gaps",
                               &gaps, "ending", &ending, "rig_file", &file, "rig_text", &rig_text, &rig_length) == 0;
    bool sound = whole && (format == 1 || format == 2);
    if (!sound) {
        not_a_recording(error, path, whole ? "it is of a later version" : "it is not the JSON file of a recording");
    } else {
        to->seed = (uint64_t)seed;
        to->gaps = (uint64_t)gaps;
        to->ending = shown(ending);
        g_autofree char *renewed = g_memdup2(rig_text, rig_length + 1);
        rgp_renew_words(renewed, rig_length);
        to->rig = rgp_rig_compile(file, renewed, rig_length, NULL);
        sound = (to->rig && to->rig->image) || not_a_recording(error, path, "the rig's text in it has errors");
        to->image = sound ? to->rig->image : NULL;
        to->format = (int)format;
        if (sound) {
            rgp_recording_circumstances(to, summary);
        }
    }
    json_decref(summary);
    return sound;
}

static uint8_t kind_of(const char *word)
{
    uint8_t kind = 0;
    while (kind < RGP_EVENTS && strcmp(rgp_event_word(kind), word) != 0) {
        kind++;
    }
    return kind;
}

static void take_event(rgp_recording *to, json_t *event)
{
    const char *kind, *of, *says, *why = NULL, *did = NULL;
    double time;
    int rig_line = 0;
    if (!event || json_unpack(event, "{s:F, s:s, s:s, s:s, s?i, s?s, s?s}", "t", &time, "event", &kind, "of", &of,
                              "says", &says, "line", &rig_line, "why", &why, "did", &did) != 0) {
        return;
    }
    if (kind_of(kind) == RGP_EVENT_EDGE) {
        return;
    }
    const uint64_t row = rgp_history_find(to->history, (uint64_t)llround(CLAMP(time, 0.0, 1e12) * 1e6));
    const rgp_occurrence o = {.row = MIN(row, to->rows - 1u),
                              .time = time,
                              .kind = kind_of(kind),
                              .line = rig_line > 0 ? (uint32_t)rig_line : 0,
                              .of = shown(of),
                              .says = shown(says),
                              .why = shown(why),
                              .did = shown(did)};
    rgp_history_occurred(to->history, &o);
}

static void read_events(rgp_recording *to)
{
    g_autofree char *path = g_strconcat(to->name, ".events.jsonl", NULL);
    g_autofree char *text = NULL;
    if (!rgp_file_read(path, &text, NULL, NULL)) {
        return;
    }
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    for (char **line = lines; *line; line++) {
        json_t *event = json_loads(*line, 0, NULL);
        take_event(to, event);
        rgp_inputs_line(to->inputs, event);
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

rgp_recording *rgp_recording_read(const char *name, GError **error)
{
    rgp_recording *r = g_new0(rgp_recording, 1);
    r->name = stem_of(name);
    r->inputs = rgp_inputs_new();
    if (!read_summary(r, error) || !read_table(r, error)) {
        rgp_recording_free(r);
        return NULL;
    }
    read_events(r);
    rgp_recording_put_timers(r);
    return r;
}

char *rgp_recording_complaint(const rgp_recording *r)
{
    if (r->torn_rows == 0) {
        return NULL;
    }
    return g_strdup_printf(r->torn_rows == 1 ? "%u row was cut off or unreadable and left out: %s"
                                             : "%u rows were cut off or unreadable and left out; the first is %s",
                           r->torn_rows, r->torn);
}

void rgp_recording_free(rgp_recording *r)
{
    if (!r) {
        return;
    }
    rgp_history_free(r->history);
    rgp_inputs_free(r->inputs);
    g_free(r->param);
    g_free(r->told);
    g_clear_pointer(&r->kept, g_bytes_unref);
    g_free(r->has);
    g_free(r->name);
    g_free(r->ending);
    g_free(r->torn);
    rgp_rig_free(r->rig);
    g_free(r);
}
