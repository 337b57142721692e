#include "recorder.h"

#include "tell.h"

#include <csv.h>
#include <errno.h>
#include <gio/gio.h>
#include <jansson.h>
#include <stdio.h>
#include <string.h>

#define RECORDING_FORMAT 1

struct rp_recorder {
    char *name;
    const rp_rig *rig;
    const rp_image_header *image;
    rp_frame_shape shape;
    uint64_t seed, frames, events_lost;
    json_t *params;
    FILE *table, *events;
    bool failed;
    GString *line;
};

static bool fail(rp_recorder *r, GError **error, const char *what)
{
    const int code = errno;
    r->failed = true;
    g_set_error(error, G_IO_ERROR, (gint)g_io_error_from_errno(code), "%s: %s: %s", r->name, what, g_strerror(code));
    return false;
}

/* ---- the JSON file ------------------------------------------------------------------------------- */

static json_t *params_of(const rp_image_header *image, const float *value)
{
    json_t *params = json_object();
    for (uint32_t i = 0; i < rp_image_count(image, RP_SECTION_PARAMS); i++) {
        json_object_set_new(
            params, rp_image_text(image, RP_NAME_SLOT, i, 0),
            json_pack("{s:f, s:s}", "value", (double)value[i], "unit", rp_image_unit(image, RP_NAME_SLOT, i, 0)));
    }
    return params;
}

static bool write_summary(rp_recorder *r, const char *ending, uint64_t gaps, GError **error)
{
    g_autofree char *path = g_strconcat(r->name, ".json", NULL);
    g_autofree char *checksum =
        g_compute_checksum_for_data(G_CHECKSUM_SHA256, (const guchar *)r->rig->source, r->rig->length);
    json_t *summary =
        json_pack("{s:i, s:s, s:s, s:I, s:I, s:I, s:I, s:I, s:O, s:s, s:s, s:s%}", "recording", RECORDING_FORMAT, "rig",
                  rp_image_text(r->image, RP_NAME_RIG, 0, 0), "ending", ending, "ticks", (json_int_t)r->frames, "gaps",
                  (json_int_t)gaps, "events_lost", (json_int_t)r->events_lost, "tick_us", (json_int_t)r->image->tick_us,
                  "seed", (json_int_t)r->seed, "params", r->params, "rig_file", r->rig->file, "rig_sha256", checksum,
                  "rig_text", r->rig->source, r->rig->length);
    char *text = summary ? json_dumps(summary, JSON_INDENT(2)) : NULL;
    const bool written = text && g_file_set_contents(path, text, -1, error);
    if (!text) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_DATA, "%s: the rig's text is not UTF-8", r->name);
    }
    free(text);
    json_decref(summary);
    return written;
}

/* ---- the table ----------------------------------------------------------------------------------- */

static void put_text(rp_recorder *r, const char *text)
{
    if (strpbrk(text, ",\"\r\n")) {
        char quoted[512];
        const size_t length = csv_write(quoted, sizeof quoted, text, strlen(text));
        g_string_append_len(r->line, quoted, (gssize)MIN(length, sizeof quoted));
    } else {
        g_string_append(r->line, text);
    }
}

static void put_heading(rp_recorder *r, uint32_t slot)
{
    const char *unit = rp_image_unit(r->image, RP_NAME_SLOT, slot, 0);
    g_autofree char *heading =
        g_strdup_printf(*unit ? "%s [%s]" : "%s", rp_image_text(r->image, RP_NAME_SLOT, slot, 0), unit);
    g_string_append_c(r->line, ',');
    put_text(r, heading);
}

static bool has_column(const rp_recorder *r, uint32_t slot)
{
    return rp_image_name_of(r->image, RP_NAME_SLOT, slot, 0) != NULL;
}

static void put_headings(rp_recorder *r)
{
    g_string_assign(r->line, "time [s]");
    for (uint32_t slot = 0; slot < r->shape.slots; slot++) {
        if (has_column(r, slot)) {
            put_heading(r, slot);
        }
    }
    for (uint32_t i = 0; i < r->shape.actuators; i++) {
        g_string_append_printf(r->line, ",%s owner",
                               rp_image_text(r->image, RP_NAME_SLOT, rp_image_actuator_slot(r->image, i), 0));
    }
    g_string_append(r->line, ",not good\r\n");
}

/* The fewest digits that give the same float back. */
static void put_float(GString *to, float value)
{
    char text[40];
    for (int digits = 6; digits <= 9; digits++) {
        g_snprintf(text, sizeof text, "%.*g", digits, (double)value);
        if ((float)g_ascii_strtod(text, NULL) == value) {
            break;
        }
    }
    g_string_append(to, text);
}

static void put_value(rp_recorder *r, uint32_t slot, float value)
{
    const rp_image_name *part =
        value >= 0.0f && value < 256.0f ? rp_image_name_of(r->image, RP_NAME_PART, slot, (uint32_t)value) : NULL;
    g_string_append_c(r->line, ',');
    if (part) {
        put_text(r, (const char *)rp_image_at(r->image, RP_SECTION_TEXT) + part->text);
    } else {
        put_float(r->line, value);
    }
}

static void put_row(rp_recorder *r, const rp_frame *frame)
{
    const float *value = rp_frame_value(&r->shape, frame);
    const rp_quality *quality = rp_frame_quality(&r->shape, frame);
    const uint16_t *owner = rp_frame_owner(&r->shape, frame);
    g_string_printf(r->line, "%" G_GUINT64_FORMAT ".%06u", frame->time_us / 1000000u,
                    (unsigned)(frame->time_us % 1000000u));
    const char *separator = ",";
    for (uint32_t slot = 0; slot < r->shape.slots; slot++) {
        if (has_column(r, slot)) {
            put_value(r, slot, value[slot]);
        }
    }
    for (uint32_t i = 0; i < r->shape.actuators; i++) {
        g_string_append_c(r->line, ',');
        rp_tell_owner(r->image, owner[i], r->line);
    }
    for (uint32_t slot = 0; slot < r->shape.slots; slot++) {
        if (quality[slot] != RP_GOOD && has_column(r, slot)) {
            g_string_append_printf(r->line, "%s%s: %s", separator, rp_image_text(r->image, RP_NAME_SLOT, slot, 0),
                                   rp_quality_text(quality[slot]));
            separator = "; ";
        }
    }
    g_string_append(r->line, *separator == ',' ? ",\r\n" : "\r\n");
}

/* ---- the events ---------------------------------------------------------------------------------- */

static bool put_line(rp_recorder *r, json_t *line)
{
    char *text = json_dumps(line, JSON_COMPACT | JSON_REAL_PRECISION(12));
    const bool written = text && fputs(text, r->events) != EOF && fputc('\n', r->events) != EOF;
    free(text);
    json_decref(line);
    return written;
}

static bool put_event(rp_recorder *r, const rp_frame *frame, const rp_event *event)
{
    g_autoptr(GString) said = g_string_new(NULL);
    const bool edge = event->kind == RP_EVENT_EDGE; /* has its own moment */
    const double time = ((double)frame->time_us - (edge ? (double)event->value : 0.0)) / 1e6;
    json_t *line = json_pack("{s:f, s:s, s:s}", "t", time, "event", rp_event_word(event->kind), "of",
                             rp_tell_subject(r->image, event));
    const uint32_t where = rp_tell_line(r->image, event);
    if (where) {
        json_object_set_new(line, "line", json_integer(where));
    }
    if (event->kind == RP_EVENT_PARAM || event->kind == RP_EVENT_HAND) {
        json_object_set_new(line, "value", json_real((double)event->value));
    } else if (edge) {
        json_object_set_new(line, "value", json_integer(event->reason));
    }
    if (event->kind == RP_EVENT_FIRED) {
        rp_tell_why(r->image, &r->shape, frame, event->source, said);
        json_object_set_new(line, "why", json_string(said->str));
        g_string_truncate(said, 0);
        rp_tell_actions(r->image, &r->shape, frame, event->source, said);
        json_object_set_new(line, "did", json_string(said->str));
        g_string_truncate(said, 0);
    }
    rp_tell_event(r->image, &r->shape, frame, event, said);
    json_object_set_new(line, "says", json_string(said->str));
    return put_line(r, line);
}

bool rp_recorder_mark(rp_recorder *r, double time, const char *text, GError **error)
{
    g_autofree char *says = g_strdup_printf("mark '%s' by hand", text);
    json_t *line =
        json_pack("{s:f, s:s, s:s, s:s}", "t", time, "event", rp_event_word(RP_EVENT_MARK), "of", text, "says", says);
    return r->failed || put_line(r, line) || fail(r, error, "the recording stopped");
}

/* ---- the whole ----------------------------------------------------------------------------------- */

static FILE *open_part(rp_recorder *r, const char *ending, GError **error)
{
    g_autofree char *path = g_strconcat(r->name, ending, NULL);
    FILE *file = fopen(path, "wb");
    if (!file) {
        fail(r, error, "cannot write the recording");
    }
    return file;
}

static void discard(rp_recorder *r)
{
    if (r->table) {
        fclose(r->table);
    }
    if (r->events) {
        fclose(r->events);
    }
    json_decref(r->params);
    g_string_free(r->line, TRUE);
    g_free(r->name);
    g_free(r);
}

rp_recorder *rp_recorder_open(const char *name, const rp_rig *rig, uint64_t seed, const float *params, GError **error)
{
    rp_recorder *r = g_new0(rp_recorder, 1);
    r->name = g_str_has_suffix(name, ".csv") ? g_strndup(name, strlen(name) - 4) : g_strdup(name);
    r->rig = rig;
    r->image = rig->image;
    r->shape = rp_frame_shape_of(r->image);
    r->seed = seed;
    r->params = params_of(r->image, params);
    r->line = g_string_new(NULL);
    r->table = open_part(r, ".csv", error);
    r->events = r->table ? open_part(r, ".events.jsonl", error) : NULL;
    if (!r->events || !write_summary(r, "still running, or cut off", 0, error)) {
        discard(r);
        return NULL;
    }
    put_headings(r);
    fputs(r->line->str, r->table);
    return r;
}

bool rp_recorder_frame(rp_recorder *r, const rp_frame *frame, GError **error)
{
    if (r->failed) {
        return true;
    }
    put_row(r, frame);
    if (fwrite(r->line->str, 1, r->line->len, r->table) != r->line->len) {
        return fail(r, error, "the recording stopped");
    }
    const rp_event *event = rp_frame_event(&r->shape, frame);
    for (uint32_t i = 0; i < frame->events; i++) {
        if (!put_event(r, frame, &event[i])) {
            return fail(r, error, "the recording stopped");
        }
    }
    r->frames++;
    r->events_lost += frame->events_lost;
    return true;
}

bool rp_recorder_flush(rp_recorder *r, GError **error)
{
    if (!r->failed && (fflush(r->table) != 0 || fflush(r->events) != 0)) {
        return fail(r, error, "the recording stopped");
    }
    return true;
}

bool rp_recorder_close(rp_recorder *r, uint64_t gaps, const char *ending, GError **error)
{
    bool sound = !r->failed && rp_recorder_flush(r, error);
    if (!write_summary(r, sound ? ending : "the disk failed", gaps, sound ? error : NULL)) {
        sound = false;
    }
    discard(r);
    return sound;
}

const char *rp_recorder_name(const rp_recorder *r)
{
    return r->name;
}
