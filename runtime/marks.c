/* The marks and stretches of a recording: its file, and their changes. */
#include "marks.h"

#include "files/files.h"
#include "record_name.h"

#include <gio/gio.h>
#include <jansson.h>
#include <math.h>
#include <string.h>

#define NAME_LETTERS 60
#define FILE_MODE    0644

GPtrArray *rgp_marks_of(const rgp_history *h)
{
    const GPtrArray *all = rgp_history_occurrences(h);
    GPtrArray *marks = g_ptr_array_new();
    for (guint i = 0; i < all->len; i++) {
        if (rgp_occurrence_is_mark(all->pdata[i])) {
            g_ptr_array_add(marks, all->pdata[i]);
        }
    }
    return marks;
}

/* ---- the file -------------------------------------------------------------------------------------- */

static bool take_line(rgp_recording *r, const char *text)
{
    json_t *line = json_loads(text, 0, NULL);
    const char *name;
    double from = NAN, until = NAN;
    const bool whole = line && json_unpack(line, "{s:F, s?F, s:s!}", "t", &from, "until", &until, "name", &name) == 0 &&
                       from >= 0.0 && from < 1e12 && *name && (isnan(until) || (until > from && until < 1e12));
    if (whole) {
        g_autofree char *shown = rgp_make_printable(g_strdup(name), false);
        rgp_history_put_mark(r->history, shown, from, isnan(until) ? from : until);
    }
    json_decref(line);
    return whole;
}

void rgp_marks_read(rgp_recording *r)
{
    g_autofree char *path = record_part(r->name, RECORD_MARKS);
    if (!rgp_file_read(path, &r->marks, NULL, NULL)) {
        return;
    }
    g_autoptr(GPtrArray) recorded = rgp_marks_of(r->history);
    for (guint i = 0; i < recorded->len; i++) {
        rgp_occurrence_free(rgp_history_take(r->history, recorded->pdata[i]));
    }
    g_auto(GStrv) lines = g_strsplit(r->marks, "\n", -1);
    for (guint i = 0; lines[i]; i++) {
        if (*lines[i] && !take_line(r, lines[i]) && r->odd_mark == 0) {
            r->odd_mark = i + 1;
        }
    }
}

/* A line for each, in their order. */
static char *text_of(const GPtrArray *marks)
{
    GString *text = g_string_new(NULL);
    for (guint i = 0; i < marks->len; i++) {
        const rgp_occurrence *o = marks->pdata[i];
        json_t *line = o->until > o->time ? json_pack("{s:f, s:f, s:s}", "t", o->time, "until", o->until, "name", o->of)
                                          : json_pack("{s:f, s:s}", "t", o->time, "name", o->of);
        char *told = json_dumps(line, JSON_COMPACT | JSON_REAL_PRECISION(15));
        g_string_append_printf(text, "%s\n", told);
        free(told);
        json_decref(line);
    }
    return g_string_free(text, FALSE);
}

static bool G_GNUC_PRINTF(2, 3) refuse(GError **error, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_autofree char *why = g_strdup_vprintf(format, arguments);
    va_end(arguments);
    g_set_error_literal(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, why);
    return false;
}

/* The file still holds the marks that this process read, so writing it loses nobody else's. */
static bool is_as_read(const rgp_recording *r, const char *path, GError **error)
{
    g_autofree char *now = NULL;
    if (r->odd_mark > 0) {
        return refuse(error, "%s: line %u is no mark; mend the line or remove it, so that nothing is lost", path,
                      r->odd_mark);
    }
    rgp_file_read(path, &now, NULL, NULL);
    return g_strcmp0(now, r->marks) == 0 ||
           refuse(error, "%s was changed by another meanwhile; open the recording anew", path);
}

static bool write_marks(rgp_recording *r, const char *path, GError **error)
{
    g_autoptr(GPtrArray) marks = rgp_marks_of(r->history);
    g_autofree char *text = text_of(marks);
    if (!rgp_file_write(path, text, strlen(text), FILE_MODE, error)) {
        return false;
    }
    g_free(r->marks);
    r->marks = g_steal_pointer(&text);
    return true;
}

/* ---- changes --------------------------------------------------------------------------------------- */

static bool check_name(const char *name, GError **error)
{
    g_autofree char *shown = rgp_make_printable(g_strdup(name), false);
    return strcmp(shown, name) != 0 ? refuse(error, "a name has to be text that can be shown, on one line")
           : !*name                 ? refuse(error, "a mark needs a name")
           : g_utf8_strlen(name, -1) > NAME_LETTERS ? refuse(error, "a name may have %d letters, and this one has %ld",
                                                             NAME_LETTERS, g_utf8_strlen(name, -1))
                                                    : true;
}

static bool check_times(const rgp_recording *r, double from, double until, GError **error)
{
    const double first = (double)rgp_recording_time_us(r, 0) / 1e6,
                 last = (double)rgp_recording_time_us(r, r->rows - 1) / 1e6;
    return !(from <= until) ? refuse(error, "a stretch ends behind its beginning: %g s is before %g s", until, from)
           : !(from >= first && until <= last) ? refuse(error, "the recording goes from %.3f to %.3f s", first, last)
                                               : true;
}

static bool check_new(const GPtrArray *marks, const char *name, double from, double until, GError **error)
{
    for (guint i = 0; i < marks->len; i++) {
        const rgp_occurrence *o = marks->pdata[i];
        if (o->time == from && o->until == until && strcmp(o->of, name) == 0) {
            return refuse(error, "'%s' is there already", name);
        }
    }
    return true;
}

static bool check_which(const GPtrArray *marks, guint which, GError **error)
{
    return which < marks->len ? true
           : marks->len == 0  ? refuse(error, "the recording has no marks")
                              : refuse(error, "the marks go from 1 to %u", marks->len);
}

/* To the microsecond, as rows are. */
static double rounded(double time)
{
    return round(time * 1e6) / 1e6;
}

/* Takes `old` out of the history, and keeps what was put there instead, once the file says so; else the other way
 * round. */
static bool settle(rgp_recording *r, const char *path, const rgp_occurrence *old, const rgp_occurrence *now,
                   GError **error)
{
    rgp_occurrence *gone = old ? rgp_history_take(r->history, old) : NULL;
    const bool written = write_marks(r, path, error);
    if (!written && now) {
        rgp_occurrence_free(rgp_history_take(r->history, now));
    }
    if (!written && gone) {
        rgp_history_put_mark(r->history, gone->of, gone->time, gone->until);
    }
    rgp_occurrence_free(gone);
    return written;
}

static bool put_mark(rgp_recording *r, const char *path, const GPtrArray *marks, const rgp_mark_change *to,
                     GError **error)
{
    const double from = rounded(to->from), until = rounded(to->until);
    return check_name(to->name, error) && check_times(r, from, until, error) &&
           check_new(marks, to->name, from, until, error) &&
           settle(r, path, NULL, rgp_history_put_mark(r->history, to->name, from, until), error);
}

bool rgp_mark_change_one(rgp_recording *r, const rgp_mark_change *to, GError **error)
{
    g_autoptr(GPtrArray) marks = rgp_marks_of(r->history);
    g_autofree char *path = record_part(r->name, RECORD_MARKS);
    if (!is_as_read(r, path, error)) {
        return false;
    }
    if (to->what == RGP_MARK_PUT) {
        return put_mark(r, path, marks, to, error);
    }
    if (!check_which(marks, to->which, error)) {
        return false;
    }
    const rgp_occurrence *old = marks->pdata[to->which];
    const double from = rounded(to->from), until = rounded(to->until);
    switch (to->what) {
    case RGP_MARK_NAME:
        return check_name(to->name, error) &&
               settle(r, path, old, rgp_history_put_mark(r->history, to->name, old->time, old->until), error);
    case RGP_MARK_MOVE:
        return check_times(r, from, until, error) &&
               settle(r, path, old, rgp_history_put_mark(r->history, old->of, from, until), error);
    default:
        return settle(r, path, old, NULL, error);
    }
}
