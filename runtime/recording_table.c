/* The table of a recording, piece by piece and row by row into its history. */
#include "block.h"
#include "recording_parts.h"
#include "table_reading.h"

#include "digits.h"
#include "explain/describe.h"
#include "files/files.h"
#include "files/table.h"
#include "record_name.h"

#include <gio/gio.h>
#include <math.h>
#include <string.h>
#include <unistd.h>

#define TOLD_LETTERS 120        /* of what is wrong with a row */
#define PIECE        (1u << 18) /* bytes that are read at a time */

bool rgp_not_a_recording(GError **error, const char *name, const char *why)
{
    g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_DATA, "%s: this is not a recording: %s", name, why);
    return false;
}

static int32_t named(GHashTable *table, const char *name)
{
    return GPOINTER_TO_INT(g_hash_table_lookup(table, name)) - 1;
}

static char *owner_key(uint32_t actuator, const char *text)
{
    return g_strdup_printf("%u %s", actuator, text);
}

static void take_heading(rgp_table_reading *r, const char *text)
{
    g_autofree char *name = g_strdup(text);
    char *unit = strstr(name, " [");
    int32_t column = COLUMN_OTHER;
    if (unit) {
        *unit = '\0';
    }
    g_autofree char *ended = g_strconcat(name, "_", NULL); /* of a rig made of the columns, where it is no name */
    const int32_t own = named(r->column_named, name), known = own < 0 ? named(r->column_named, ended) : own;
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
static uint32_t slot_of(const rgp_table_reading *r, int32_t column)
{
    uint32_t slot = 0;
    while (slot < r->to->image->slots && rgp_history_slot(r->to->history, slot) != column) {
        slot++;
    }
    return slot;
}

/* The first thing that is wrong with a row is what is told. */
static void G_GNUC_PRINTF(2, 3) tear(rgp_table_reading *r, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    if (!r->torn) {
        g_autofree char *whole = rgp_make_printable(g_strdup_vprintf(format, arguments), false);
        r->torn = g_utf8_substring(whole, 0, MIN(g_utf8_strlen(whole, -1), TOLD_LETTERS));
    }
    va_end(arguments);
}

static void count_torn(const rgp_table_reading *r)
{
    if (!r->again && r->to->torn_rows++ == 0) {
        r->to->torn = g_strdup_printf("row %" G_GUINT64_FORMAT ": %s", r->row, r->torn);
    }
}

/* A reading that a float does not hold to the count. A row that is torn behind it leaves it without effect: the next
 * row of that number says its own. */
static void take_whole(const rgp_table_reading *r, int32_t column, const char *text)
{
    const uint32_t slot = slot_of(r, column), first = rgp_image_sensor_slot(r->to->image, 0);
    const gint64 raw = g_ascii_strtoll(text, NULL, 10);
    if (slot >= first && slot - first < rgp_image_count(r->to->image, RGP_SECTION_SENSORS) && raw >= INT32_MIN &&
        raw <= INT32_MAX) {
        rgp_inputs_whole(r->to->inputs, (uint32_t)rgp_history_end(r->to->history), (uint16_t)(slot - first),
                         (int32_t)raw);
    }
}

static void take_value(rgp_table_reading *r, int32_t column, const char *text, size_t length)
{
    const rgp_image_header *image = r->to->image;
    known_word *known = &r->known[column];
    char *end;
    if (known->length == length && memcmp(known->text, text, length) == 0) {
        r->value[column] = known->value;
        return;
    }
    float value = (float)rgp_digits_read(text, &end);
    if ((uint32_t)column >= r->owners) {
        g_autofree char *key = owner_key((uint32_t)column - r->owners, text);
        value = (float)named(r->owner_named, key);
        if (value < 0.0f && r->to->foreign) {
            value = (float)RGP_OWNER_REST; /* a line of the text that is not known */
        } else if (value < 0.0f) {
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
    const bool whole = fabsf(value) >= FLOAT_COUNTS; /* told in each row */
    if (!r->torn && !whole && length < sizeof known->text && length > 0) {
        memcpy(known->text, text, length);
        known->length = (uint32_t)length;
        known->value = value;
    }
    r->value[column] = value;
}

/* "level: late; depth: late" */
static void take_not_good(rgp_table_reading *r, const char *text)
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
    rgp_table_reading *r = self;
    const char *text = field;
    if (r->row == 0) {
        take_heading(r, text);
        return;
    }
    if (r->fields == 0) {
        const uint32_t newness = r->newness;
        memset(r->quality, RGP_GOOD, newness);
        memset(r->quality + newness, RGP_MISSING, rgp_history_columns(r->to->history) - newness);
    }
    const int32_t column =
        r->fields < r->column_of->len ? g_array_index(r->column_of, int32_t, r->fields) : COLUMN_OTHER;
    r->fields++;
    if (column >= 0) {
        take_value(r, column, text, length);
    } else if (column == COLUMN_TIME) {
        char *end;
        r->now = rgp_digits_read(text, &end);
        if (end == text || *end != '\0' || !(r->now >= 0.0 && r->now < 1e12)) {
            tear(r, "'%s' is no time in seconds", text);
        } else if (!(r->now > r->before)) {
            tear(r, "its time %s is not behind that of the row before", text);
        }
    } else if (column == COLUMN_NOT_GOOD && *text) {
        take_not_good(r, text);
    } else if (column == COLUMN_SAMPLES && *text) {
        r->samples = g_strdup(text);
    }
}

/* A recording that tells which samples were not new tells of all others that they were. */
static void note_newness(const rgp_table_reading *r, uint32_t row)
{
    const uint32_t first = rgp_history_newness(r->to->history, 0),
                   sensors = rgp_image_count(r->to->image, RGP_SECTION_SENSORS);
    const GArray *sample = r->to->inputs->sample;
    if (r->to->format < 2) {
        return;
    }
    for (uint32_t i = 0; i < sensors; i++) {
        r->value[first + i] = 1.0f;
        r->quality[first + i] = RGP_GOOD;
    }
    for (guint i = sample->len; i-- > 0 && g_array_index(sample, rgp_input_sample, i).row == row;) {
        const rgp_input_sample *s = &g_array_index(sample, rgp_input_sample, i);
        r->value[first + s->sensor] = s->same ? 0.0f : r->value[first + s->sensor];
    }
}

/* Blocks of the history are found again by where their first rows begin, as long as that can be told. */
static void note_block(const rgp_table_reading *r, uint32_t row)
{
    const uint64_t place = rgp_table_place(r->rows);
    if (row % BLOCK_ROWS == 0 && r->to->block_at->len == row / BLOCK_ROWS && place != UINT64_MAX) {
        g_array_append_val(r->to->block_at, place);
    }
}

static void put_row(rgp_table_reading *r, uint32_t row, uint64_t time_us)
{
    if (!r->again) {
        note_block(r, row);
    }
    rgp_history_row(r->to->history, time_us, r->value, r->quality);
    r->before = r->now;
    if (r->again) {
        rgp_recording_timers_at(r->to, row);
        rgp_recording_put_timers(r->to, row, time_us);
    } else {
        r->to->rows = row + 1;
        rgp_recording_row_is_read(r->to);
    }
}

/* A row that was cut off is left out. */
static void take_row(int ending, void *self)
{
    rgp_table_reading *r = self;
    if (r->row++ == 0) {
        return;
    }
    if (r->fields != r->column_of->len || ending < 0) {
        tear(r, "it is cut off, or not of %u columns", r->column_of->len);
    }
    const uint32_t row = (uint32_t)rgp_history_next(r->to->history);
    if (!r->torn && r->samples && !rgp_inputs_samples(r->to->inputs, r->to->image, row, r->samples) &&
        !r->to->foreign) {
        tear(r, "'%s' says nothing of samples", r->samples);
    }
    if (!r->torn) {
        note_newness(r, row);
        put_row(r, row, (uint64_t)llround(r->now * 1e6));
    } else if (r->fields > 0) {
        count_torn(r);
    }
    r->fields = 0;
    g_clear_pointer(&r->samples, g_free);
    g_clear_pointer(&r->torn, g_free);
}

/* A row that has nothing odd is read in one go. */
static bool take_line(const char *line, size_t length, void *self)
{
    rgp_table_reading *r = self;
    if (r->row == 0 || !rgp_table_reading_quickly(r, line, length)) {
        return false;
    }
    memset(r->quality, RGP_GOOD, r->newness);
    memset(r->quality + r->newness, RGP_MISSING, rgp_history_columns(r->to->history) - r->newness);
    r->fields = r->column_of->len;
    take_row('\n', self);
    return true;
}

static void name_owner(rgp_table_reading *r, uint32_t actuator, uint16_t owner)
{
    g_autoptr(GString) text = g_string_new(NULL);
    rgp_describe_owner(r->to->image, owner, text);
    g_hash_table_insert(r->owner_named, owner_key(actuator, text->str), GINT_TO_POINTER((int)owner + 1));
}

static void name_columns(rgp_table_reading *r)
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
        name_owner(r, i, RGP_OWNER_FAULT);
    }
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

static void begin_reading(rgp_table_reading *r)
{
    const uint32_t columns = rgp_history_columns(r->to->history);
    r->column_of = g_array_new(FALSE, FALSE, sizeof(int32_t));
    r->value = g_new0(float, columns + 1);
    r->quality = g_new0(rgp_quality, columns + 1);
    r->known = g_new0(known_word, columns + 1);
    for (uint32_t i = 0; i < rgp_image_count(r->to->image, RGP_SECTION_ACTUATORS); i++) {
        r->value[rgp_history_owner(r->to->history, i)] = (float)RGP_OWNER_REST; /* where no column says it */
    }
    r->owners = rgp_history_owner(r->to->history, 0);
    r->newness = rgp_history_newness(r->to->history, 0);
    name_columns(r);
    const rgp_table_reader reader = {take_line, take_field, take_row, r};
    r->rows = rgp_table_new(&reader, true);
    r->piece = g_malloc(PIECE);
}

bool rgp_recording_begin_table(rgp_recording *to, GError **error)
{
    g_autofree char *path = record_part(to->name, RECORD_TABLE);
    guint64 bytes = 0;
    const int file = rgp_file_open(path, &bytes, error);
    to->history = rgp_history_new(to->image, 0);
    to->has = g_new0(bool, to->image->slots + 1);
    to->block_at = g_array_new(FALSE, FALSE, sizeof(uint64_t));
    rgp_recording_begin_timers(to);
    if (file < 0) {
        return false;
    }
    to->table = g_new0(rgp_table_reading, 1);
    *to->table = (rgp_table_reading){.before = -1.0, .to = to, .file = file, .bytes = bytes};
    begin_reading(to->table);
    return true;
}

bool rgp_recording_read_piece(rgp_recording *to)
{
    rgp_table_reading *r = to->table;
    const gssize got = rgp_file_piece(r->file, r->piece, (gsize)MIN(PIECE, r->bytes - r->read));
    if (got > 0) {
        r->read += (guint64)got;
        rgp_table_feed(r->rows, r->piece, (gsize)got);
    } else if (got == 0 && rgp_table_place(r->rows) == r->bytes) {
        g_array_append_val(to->block_at, r->bytes);
    } else if (got < 0) {
        r->row++;
        tear(r, "the disk gives no more of it");
        count_torn(r);
    }
    return got > 0;
}

static void finish_rows(rgp_table_reading *r)
{
    const rgp_table_end end = rgp_table_finish(r->rows);
    if (end != RGP_TABLE_READ) {
        r->row++;
        g_clear_pointer(&r->torn, g_free);
        tear(r, end == RGP_TABLE_OPEN_QUOTE ? "a quote that opens here is not closed; what comes behind it is lost"
                                            : "a quote stands where none may; what comes behind it is lost");
        count_torn(r);
    }
}

void rgp_recording_end_table(rgp_recording *to)
{
    rgp_table_reading *r = to->table;
    if (!r) {
        return;
    }
    finish_rows(r);
    to->timed = has_time(r->column_of);
    close(r->file);
    g_array_unref(r->column_of);
    g_hash_table_unref(r->column_named);
    g_hash_table_unref(r->owner_named);
    g_free(r->value);
    g_free(r->quality);
    g_free(r->known);
    g_free(r->piece);
    g_free(r->samples);
    g_free(r->torn); /* of a row that was whole behind all */
    g_clear_pointer(&to->table, g_free);
}

double rgp_recording_table_share(const rgp_recording *to)
{
    return to->table->bytes > 0 ? (double)to->table->read / (double)to->table->bytes : 1.0;
}

bool rgp_recording_check_table(const rgp_recording *to, GError **error)
{
    g_autofree char *path = record_part(to->name, RECORD_TABLE);
    if (!(to->table ? has_time(to->table->column_of) : to->timed)) {
        return rgp_not_a_recording(error, path, "its first row has no column 'time [s]'");
    }
    return to->rows > 0 || rgp_not_a_recording(error, path, to->torn ? to->torn : "it has no row of readings");
}

/* ---- by the index ----------------------------------------------------------------------------------- */

bool rgp_recording_table_bytes(const rgp_recording *r, uint64_t place, void *to, gsize bytes)
{
    return rgp_file_bytes(r->table->file, place, to, bytes);
}

/* Rows out of the middle of the table: what is told there of them is the same as it was, and what a replay needs of
 * them is not kept. */
static void read_again(rgp_recording *r, char *bytes, gsize length)
{
    rgp_table_reading *t = r->table;
    const rgp_table_reader reader = {take_line, take_field, take_row, t};
    rgp_table *rows = rgp_table_new(&reader, true);
    rgp_table_feed(rows, bytes, length);
    rgp_table_finish(rows);
}

bool rgp_recording_read_heading(rgp_recording *r, uint64_t bytes)
{
    g_autofree char *heading = g_malloc(MIN(bytes, PIECE) + 1);
    if (bytes > PIECE || !rgp_recording_table_bytes(r, 0, heading, bytes)) {
        return false;
    }
    r->table->again = true;
    read_again(r, heading, bytes);
    return has_time(r->table->column_of);
}

void rgp_recording_read_block(rgp_recording *r, char *bytes, gsize length, uint32_t first)
{
    rgp_table_reading *t = r->table;
    const guint samples = r->inputs->sample->len;
    t->row = 1;
    t->before = -1.0;
    rgp_recording_timers_before(r, first);
    read_again(r, bytes, length);
    g_array_set_size(r->inputs->sample, samples);
}
