/* The rows of a recording's table: what a column held in the row before is not put into digits again. */
#include "row_writer.h"

#include "digits.h"

#include "explain/describe.h"

#include <csv.h>
#include <math.h>
#include <string.h>

#define FLOAT_COUNTS 16777216.0f /* a float holds each whole number below */

/* The text that stands in a column, with the comma in front: most rows hold the same as the one before. */
#define CELL_ROOM    (RGP_DIGITS_ROOM + 8u)
typedef struct cell_text {
    float value;
    uint32_t length; /* 0: none yet, or one that is longer */
    char text[CELL_ROOM];
} cell_text;

struct rgp_row_writer {
    const rgp_image_header *image;
    rgp_frame_layout layout;
    bool *named;               /* by slot: its numbers have names */
    bool *shown;               /* by slot: it has a column */
    uint32_t *column, columns; /* the slots that have one */
    cell_text *cell;           /* by slot, and behind them by actuator the owner */
    GString *line;
};

static void put_text(rgp_row_writer *r, const char *text)
{
    if (strpbrk(text, ",\"\r\n")) {
        char quoted[512];
        const size_t length = csv_write(quoted, sizeof quoted, text, strlen(text));
        g_string_append_len(r->line, quoted, (gssize)MIN(length, sizeof quoted));
    } else {
        g_string_append(r->line, text);
    }
}

static void put_heading(rgp_row_writer *r, uint32_t slot)
{
    const char *unit = rgp_image_unit(r->image, RGP_NAME_SLOT, slot, 0);
    g_autofree char *heading =
        g_strdup_printf(*unit ? "%s [%s]" : "%s", rgp_image_text(r->image, RGP_NAME_SLOT, slot, 0), unit);
    g_string_append_c(r->line, ',');
    put_text(r, heading);
}

static void find_columns(rgp_row_writer *r)
{
    for (uint32_t slot = 0; slot < r->layout.slots; slot++) {
        r->shown[slot] = rgp_image_name_of(r->image, RGP_NAME_SLOT, slot, 0) != NULL;
        r->named[slot] = rgp_image_name_of(r->image, RGP_NAME_PART, slot, 0) != NULL;
        r->column[r->columns] = slot;
        r->columns += r->shown[slot];
    }
}

rgp_row_writer *rgp_row_writer_new(const rgp_image_header *image)
{
    const rgp_frame_layout layout = rgp_frame_layout_of(image);
    rgp_row_writer *r = g_new0(rgp_row_writer, 1);
    *r = (rgp_row_writer){.image = image,
                          .layout = layout,
                          .line = g_string_new(NULL),
                          .shown = g_new0(bool, layout.slots + 1),
                          .named = g_new0(bool, layout.slots + 1),
                          .column = g_new0(uint32_t, layout.slots + 1),
                          .cell = g_new0(cell_text, layout.slots + layout.actuators + 1)};
    find_columns(r);
    return r;
}

void rgp_row_writer_free(rgp_row_writer *r)
{
    if (r) {
        g_free(r->shown);
        g_free(r->named);
        g_free(r->cell);
        g_free(r->column);
        g_string_free(r->line, TRUE);
        g_free(r);
    }
}

bool rgp_row_writer_shows(const rgp_row_writer *r, uint32_t slot)
{
    return r->shown[slot];
}

const GString *rgp_row_writer_heading(rgp_row_writer *r)
{
    g_string_assign(r->line, "time [s]");
    for (uint32_t slot = 0; slot < r->layout.slots; slot++) {
        if (r->shown[slot]) {
            put_heading(r, slot);
        }
    }
    for (uint32_t i = 0; i < r->layout.actuators; i++) {
        g_string_append_printf(r->line, ",%s owner",
                               rgp_image_text(r->image, RGP_NAME_SLOT, rgp_image_actuator_slot(r->image, i), 0));
    }
    g_string_append(r->line, ",not good,samples\r\n");
    return r->line;
}

/* The end of the line so far, with room behind it for all cells of a row. */
static char *line_begin(const rgp_row_writer *r)
{
    const gsize length = r->line->len, room = (r->columns + r->layout.actuators + 2u) * CELL_ROOM;
    if (r->line->allocated_len - length <= room) {
        g_string_set_size(r->line, r->line->allocated_len + 2 * room);
        r->line->len = length;
    }
    return r->line->str + length;
}

static void line_end(const rgp_row_writer *r, char *end)
{
    *end = '\0';
    r->line->len = (gsize)(end - r->line->str);
}

static void put_whole(GString *to, int64_t value, uint32_t least)
{
    char text[RGP_DIGITS_ROOM];
    g_string_append_len(to, text, rgp_digits_whole(text, value, least) - text);
}

static bool is_same(const cell_text *c, float value)
{
    return c->length > 0 && memcmp(&c->value, &value, sizeof value) == 0;
}

/* The cell's text at the end of a line; all of its room, which costs less than to look how long it is. */
static char *put_cell(char *at, const cell_text *c)
{
    memcpy(at, c->text, CELL_ROOM);
    return at + c->length;
}

/* A text of any length, of a name or an owner. */
static char *put_words(rgp_row_writer *r, cell_text *c, char *at, float value, const char *text)
{
    const gsize from = (gsize)(at - r->line->str);
    line_end(r, at);
    g_string_append_c(r->line, ',');
    put_text(r, text);
    const gsize length = r->line->len - from;
    c->value = value;
    c->length = length < CELL_ROOM ? (uint32_t)length : 0;
    memcpy(c->text, r->line->str + from, c->length);
    return line_begin(r);
}

static char *put_value(rgp_row_writer *r, uint32_t slot, float value, char *at)
{
    cell_text *c = &r->cell[slot];
    if (is_same(c, value)) {
        return put_cell(at, c);
    }
    const rgp_image_name *part = r->named[slot] && value >= 0.0f && value < 256.0f
                                     ? rgp_image_name_of(r->image, RGP_NAME_PART, slot, (uint32_t)value)
                                     : NULL;
    if (part) {
        return put_words(r, c, at, value, (const char *)rgp_image_at(r->image, RGP_SECTION_TEXT) + part->text);
    }
    c->value = value;
    *c->text = ',';
    c->length = (uint32_t)(rgp_digits_float(c->text + 1, value) - c->text);
    return put_cell(at, c);
}

static char *put_owner(rgp_row_writer *r, uint32_t actuator, uint16_t owner, char *at)
{
    cell_text *c = &r->cell[r->layout.slots + actuator];
    if (is_same(c, (float)owner)) {
        return put_cell(at, c);
    }
    g_autoptr(GString) text = g_string_new(NULL);
    rgp_describe_owner(r->image, owner, text);
    return put_words(r, c, at, (float)owner, text->str);
}

/* "level: same; echo: 120": the sensors whose sample is not a new one of this tick: the same again, none, or so many
 * microseconds old. */
static void put_samples(rgp_row_writer *r, const rgp_frame *frame)
{
    const rgp_sample *sample = rgp_frame_sample(&r->layout, frame);
    const char *separator = ",";
    for (uint32_t i = 0; i < r->layout.sensors; i++) {
        const int64_t age_us = (int64_t)(frame->time_us - sample[i].time_us);
        const bool missing = !rgp_usable(sample[i].quality);
        if (!sample[i].same && !missing && age_us == 0) {
            continue;
        }
        g_string_append_printf(r->line, "%s%s: ", separator,
                               rgp_image_text(r->image, RGP_NAME_SLOT, rgp_image_sensor_slot(r->image, i), 0));
        if (sample[i].same || missing) {
            g_string_append(r->line, sample[i].same ? "same" : "missing");
        } else {
            put_whole(r->line, age_us, 1);
        }
        separator = "; ";
    }
    g_string_append(r->line, *separator == ',' ? ",\r\n" : "\r\n");
}

static char *put_time(char *at, uint64_t time_us)
{
    at = rgp_digits_whole(at, (int64_t)(time_us / 1000000u), 1);
    *at++ = '.';
    return rgp_digits_whole(at, (int64_t)(time_us % 1000000u), 6);
}

static void put_cells(rgp_row_writer *r, const rgp_frame *frame)
{
    const float *value = rgp_frame_value(&r->layout, frame);
    const uint16_t *owner = rgp_frame_owner(&r->layout, frame);
    const uint32_t sensors = rgp_image_sensor_slot(r->image, 0);
    char *at = put_time(line_begin(r), frame->time_us);
    for (uint32_t i = 0; i < r->columns; i++) {
        const uint32_t slot = r->column[i];
        if (slot - sensors < r->layout.sensors && fabsf(value[slot]) >= FLOAT_COUNTS) { /* a float may not hold it */
            *at++ = ',';
            at = rgp_digits_whole(at, rgp_frame_raw(&r->layout, frame)[slot - sensors], 1);
        } else {
            at = put_value(r, slot, value[slot], at);
        }
    }
    for (uint32_t i = 0; i < r->layout.actuators; i++) {
        at = put_owner(r, i, owner[i], at);
    }
    line_end(r, at);
}

const GString *rgp_row_writer_row(rgp_row_writer *r, const rgp_frame *frame)
{
    const rgp_quality *quality = rgp_frame_quality(&r->layout, frame);
    const char *separator = ",";
    g_string_truncate(r->line, 0);
    put_cells(r, frame);
    for (uint32_t i = 0; i < r->columns; i++) {
        const uint32_t slot = r->column[i];
        if (quality[slot] != RGP_GOOD) {
            g_string_append_printf(r->line, "%s%s: %s", separator, rgp_image_text(r->image, RGP_NAME_SLOT, slot, 0),
                                   rgp_quality_text(quality[slot]));
            separator = "; ";
        }
    }
    g_string_append(r->line, *separator == ',' ? "," : "");
    put_samples(r, frame);
    return r->line;
}
