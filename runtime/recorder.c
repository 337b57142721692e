/* The writer of recordings: the table, the lines of events and inputs, and the summary. */
#include "recorder.h"

#include "event_line.h"
#include "record_name.h"
#include "row_writer.h"

#include "explain/describe.h"
#include "files/files.h"
#include "rigpulse/version.h"

#include <errno.h>
#include <fcntl.h>
#include <gio/gio.h>
#include <glib/gstdio.h>
#include <jansson.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#define RECORDING_FORMAT 2
#define RUNNING          "still running, or cut off"

struct rgp_recorder {
    char *name;
    const rgp_rig *rig;
    const rgp_image_header *image;
    rgp_frame_layout layout;
    rgp_recorder_run run;
    uint64_t frames, events_lost;
    uint64_t first, next; /* the numbers of the first frame, and of the one after the newest */
    json_t *params;
    FILE *table, *events;
    bool failed;
    bool over_old; /* the files of an older recording are still in the place of the new ones */
    rgp_row_writer *rows;
};

static bool fail(rgp_recorder *r, GError **error, const char *what)
{
    const int code = errno;
    r->failed = true;
    g_set_error(error, G_IO_ERROR, (gint)g_io_error_from_errno(code), "%s: %s: %s", r->name, what, g_strerror(code));
    return false;
}

/* ---- the JSON file ------------------------------------------------------------------------------- */

static json_t *params_of(const rgp_image_header *image, const float *value)
{
    json_t *params = json_object();
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_PARAMS); i++) {
        json_object_set_new(
            params, rgp_image_text(image, RGP_NAME_SLOT, i, 0),
            json_pack("{s:f, s:s}", "value", (double)value[i], "unit", rgp_image_unit(image, RGP_NAME_SLOT, i, 0)));
    }
    return params;
}

/* The columns of the table behind the time, for whoever cannot compile the rig's text. */
static json_t *columns_of(const rgp_recorder *r)
{
    json_t *columns = json_array();
    const uint32_t sensors = rgp_image_sensor_slot(r->image, 0), actuators = rgp_image_actuator_slot(r->image, 0),
                   states = rgp_image_state_slot(r->image, 0);
    for (uint32_t slot = 0; slot < r->layout.slots; slot++) {
        if (!rgp_row_writer_shows(r->rows, slot)) {
            continue;
        }
        const char *kind = slot < sensors     ? "param"
                           : slot < actuators ? "sensor"
                           : slot < states    ? "actuator"
                                              : "signal";
        json_t *names = json_array();
        for (uint32_t part = 0; rgp_image_name_of(r->image, RGP_NAME_PART, slot, part); part++) {
            json_array_append_new(names, json_string(rgp_image_text(r->image, RGP_NAME_PART, slot, part)));
        }
        json_array_append_new(
            columns, json_pack("{s:s, s:s, s:s, s:o}", "name", rgp_image_text(r->image, RGP_NAME_SLOT, slot, 0), "unit",
                               rgp_image_unit(r->image, RGP_NAME_SLOT, slot, 0), "kind", kind, "names", names));
    }
    return columns;
}

static json_t *told_edges(const rgp_recorder *r)
{
    json_t *sensors = json_array();
    for (uint32_t i = 0; r->run.told && i < r->layout.sensors; i++) {
        if (r->run.told[i]) {
            json_array_append_new(
                sensors, json_string(rgp_image_text(r->image, RGP_NAME_SLOT, rgp_image_sensor_slot(r->image, i), 0)));
        }
    }
    return sensors;
}

static json_t *kept_as_hex(const rgp_recorder_run *run)
{
    GString *hex = g_string_new(NULL);
    for (uint32_t i = 0; i < run->kept_size; i++) {
        g_string_append_printf(hex, "%02x", run->kept[i]);
    }
    json_t *text = json_string(hex->str);
    g_string_free(hex, TRUE);
    return text;
}

static bool write_summary(rgp_recorder *r, const char *ending, uint64_t gaps, GError **error)
{
    g_autofree char *path = g_strconcat(r->name, ".json", NULL);
    g_autofree char *checksum =
        g_compute_checksum_for_data(G_CHECKSUM_SHA256, (const guchar *)r->rig->source, r->rig->length);
    g_autofree char *file = rgp_make_printable(g_strdup(r->rig->file), false);
    json_t *summary = json_pack(
        "{s:i, s:s, s:i, s:s, s:s, s:I, s:I, s:I, s:I, s:I, s:I, s:s?, s:b, s:b, s:b, s:f, s:O, s:o, s:o, s:o, "
        "s:s, s:s, s:s%}",
        "recording", RECORDING_FORMAT, "version", rgp_version_text(), "bits", (int)RGP_BITS, "rig",
        rgp_image_text(r->image, RGP_NAME_RIG, 0, 0), "ending", ending, "ticks", (json_int_t)r->frames, "first_tick",
        (json_int_t)r->first, "gaps", (json_int_t)gaps, "events_lost", (json_int_t)r->events_lost, "tick_us",
        (json_int_t)r->image->tick_us, "seed", (json_int_t)r->run.seed, "port", r->run.port, "dry", r->run.dry,
        "hand_only", r->run.hand_only, "at_rest", r->run.at_rest, "power", (double)r->run.bound, "params", r->params,
        "kept", kept_as_hex(&r->run), "edges", told_edges(r), "columns", columns_of(r), "rig_file", file, "rig_sha256",
        checksum, "rig_text", r->rig->source, r->rig->length);
    char *text = summary ? json_dumps(summary, JSON_INDENT(2)) : NULL;
    const bool written = text && rgp_file_write(path, text, strlen(text), 0666, error);
    if (!text) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_DATA, "%s: the rig's text is not UTF-8", r->name);
    }
    free(text);
    json_decref(summary);
    return written;
}

/* ---- the events ---------------------------------------------------------------------------------- */

static bool put_line(rgp_recorder *r, json_t *line)
{
    char *text = rgp_line_text(line);
    const bool written = text && fputs(text, r->events) != EOF && fputc('\n', r->events) != EOF;
    free(text);
    json_decref(line);
    return written;
}

/* Ticks before this one that found no room. */
static bool put_gap(rgp_recorder *r, const rgp_frame *frame)
{
    const uint64_t ticks = frame->number - r->next;
    g_autofree char *says = g_strdup_printf("%" G_GUINT64_FORMAT " ticks found no room and are missing here", ticks);
    return put_line(r, json_pack("{s:f, s:s, s:s, s:I, s:I, s:s}", "t", (double)frame->time_us / 1e6, "event", "gap",
                                 "of", rgp_image_text(r->image, RGP_NAME_RIG, 0, 0), "tick", (json_int_t)r->next,
                                 "ticks", (json_int_t)ticks, "says", says));
}

bool rgp_recorder_mark(rgp_recorder *r, double time, const char *text, GError **error)
{
    g_autofree char *says = g_strdup_printf("mark '%s' by hand", text);
    json_t *line =
        json_pack("{s:f, s:s, s:s, s:s}", "t", time, "event", rgp_event_word(RGP_EVENT_MARK), "of", text, "says", says);
    return r->failed || put_line(r, line) || fail(r, error, "the recording stopped");
}

/* ---- the whole ----------------------------------------------------------------------------------- */

/* Under its own name, or until the first row is out beside the file that has it. */
static char *path_now(const rgp_recorder *r, int part)
{
    g_autofree char *path = record_part(r->name, part);
    return r->over_old ? rgp_file_temporary(path) : g_steal_pointer(&path);
}

static FILE *open_part(rgp_recorder *r, int part, GError **error)
{
    g_autofree char *own = record_part(r->name, part), *path = path_now(r, part);
    rgp_file_sweep(own);
    if (r->over_old) {
        g_unlink(path);
    }
    const int file = open(path, O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
    FILE *stream = file >= 0 ? fdopen(file, "wb") : NULL;
    if (!stream) {
        fail(r, error, "cannot write the recording");
        if (file >= 0) { /* there is no memory for a stream */
            close(file);
            g_unlink(path);
        }
    }
    return stream;
}

/* A recording without a row is none: what was there before stays, and nothing is left behind. */
static void remove_empty(const rgp_recorder *r)
{
    const bool made[RECORD_PARTS] = {r->table != NULL, r->events != NULL, !r->over_old && r->events != NULL};
    for (int part = 0; part < RECORD_PARTS; part++) {
        g_autofree char *path = path_now(r, part);
        if (made[part]) {
            g_unlink(path);
        }
    }
}

/* True when what was written has reached the disk. */
static bool close_part(FILE *file)
{
    const bool written = fflush(file) == 0 && fsync(fileno(file)) == 0;
    return fclose(file) == 0 && written;
}

static void discard(rgp_recorder *r)
{
    if (r->frames == 0) {
        remove_empty(r);
    }
    if (r->table) {
        fclose(r->table);
    }
    if (r->events) {
        fclose(r->events);
    }
    json_decref(r->params);
    rgp_row_writer_free(r->rows);
    g_free(r->name);
    g_free(r);
}

rgp_recorder *rgp_recorder_open(const char *name, bool overwrite, const rgp_rig *rig, const rgp_recorder_run *run,
                                GError **error)
{
    g_autofree char *stem = record_stem(name), *old = NULL;
    if (!record_check_name(name, stem, error)) {
        return NULL;
    }
    old = record_taken(stem);
    if (old && !overwrite) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_EXISTS, "%s is there already; take another name, or say --overwrite",
                    old);
        return NULL;
    }
    rgp_recorder *r = g_new0(rgp_recorder, 1);
    r->name = g_steal_pointer(&stem);
    r->over_old = old != NULL;
    r->rig = rig;
    r->image = rig->image;
    r->layout = rgp_frame_layout_of(r->image);
    r->run = *run;
    r->params = params_of(r->image, run->params);
    r->rows = rgp_row_writer_new(r->image);
    r->table = open_part(r, RECORD_TABLE, error);
    r->events = r->table ? open_part(r, RECORD_EVENTS, error) : NULL;
    const GString *heading = rgp_row_writer_heading(r->rows);
    if (!r->events || (!r->over_old && !write_summary(r, RUNNING, 0, error)) ||
        (fputs(heading->str, r->table) == EOF && !fail(r, error, "cannot write the recording"))) {
        discard(r);
        return NULL;
    }
    return r;
}

/* The new recording takes the place of the old one. Where that fails, nothing temporary stays. */
static bool take_place(rgp_recorder *r, GError **error)
{
    bool done = fflush(r->table) == 0 && fflush(r->events) == 0;
    for (int part = RECORD_TABLE; part <= RECORD_EVENTS; part++) {
        g_autofree char *from = path_now(r, part), *to = record_part(r->name, part);
        done = done && g_rename(from, to) == 0;
        if (!done) {
            fail(r, r->failed ? NULL : error, "cannot write the recording");
            g_unlink(from);
        }
    }
    if (done) { /* the old one's marks and index are of the old one */
        g_autofree char *marks = record_part(r->name, RECORD_MARKS), *index = record_part(r->name, RECORD_INDEX);
        g_unlink(marks);
        g_unlink(index);
    }
    r->over_old = false;
    return done && write_summary(r, RUNNING, 0, error);
}

bool rgp_recorder_frame(rgp_recorder *r, const rgp_frame *frame, GError **error)
{
    if (r->failed) {
        return true;
    }
    if (r->frames == 0) {
        r->first = r->next = frame->number;
    }
    if (frame->number > r->next && !put_gap(r, frame)) {
        return fail(r, error, "the recording stopped");
    }
    r->next = frame->number + 1;
    const GString *row = rgp_row_writer_row(r->rows, frame);
    if (fwrite(row->str, 1, row->len, r->table) != row->len) {
        return fail(r, error, "the recording stopped");
    }
    for (uint32_t i = 0; i < frame->commands; i++) {
        if (!put_line(r, rgp_command_as_line(r->image, &r->layout, frame, i))) {
            return fail(r, error, "the recording stopped");
        }
    }
    const rgp_event *event = rgp_frame_event(&r->layout, frame);
    for (uint32_t i = 0; i < frame->events; i++) {
        if (!put_line(r, rgp_event_as_line(r->image, &r->layout, frame, &event[i]))) {
            return fail(r, error, "the recording stopped");
        }
    }
    r->frames++;
    r->events_lost += frame->events_lost;
    if (r->over_old && !take_place(r, error)) {
        r->failed = true;
        return false;
    }
    return true;
}

bool rgp_recorder_flush(rgp_recorder *r, GError **error)
{
    if (!r->failed && (fflush(r->table) != 0 || fflush(r->events) != 0)) {
        return fail(r, error, "the recording stopped");
    }
    return true;
}

bool rgp_recorder_close(rgp_recorder *r, uint64_t gaps, const char *ending, GError **error)
{
    if (r->frames == 0) {
        discard(r);
        return true;
    }
    bool sound = !r->failed;
    for (FILE **file = &r->table; file; file = file == &r->table ? &r->events : NULL) {
        if (!close_part(g_steal_pointer(file)) && sound) {
            sound = fail(r, error, "the recording stopped");
        }
    }
    if (!r->over_old && !write_summary(r, sound ? ending : "the disk failed", gaps, sound ? error : NULL)) {
        sound = false;
    }
    discard(r);
    return sound;
}

const char *rgp_recorder_name(const rgp_recorder *r)
{
    return r->name;
}
