/* The reader of recordings: their description, and the order in which the other files are read beside each other. */
#include "recording_parts.h"

#include "files/files.h"
#include "former.h"
#include "marks.h"
#include "record_name.h"
#include "explain/describe.h"

#include <gio/gio.h>
#include <jansson.h>
#include <string.h>

/* ---- the description ------------------------------------------------------------------------- */

/* A copy that can be shown; of NULL, NULL. */
static char *shown(const char *text)
{
    char *copy = g_strdup(text);
    return copy ? rgp_make_printable(copy, false) : NULL;
}

/* Compiles the recorded text. One of another version, or one that somebody has changed, may not compile: then the
 * columns are described without it. */
static bool compile_rig(rgp_recording *to, const char *file, const char *text, size_t length, const json_t *summary)
{
    g_autofree char *renewed = g_memdup2(text, length + 1);
    rgp_renew_words(renewed, length);
    to->rig = rgp_rig_compile(file, renewed, length, NULL);
    if (to->rig && !to->rig->image) {
        const rgp_message *m = to->rig->message;
        while (m->warning) {
            m++;
        }
        g_autofree char *why = g_strdup_printf("line %u: %s", m->line, m->text), *without = NULL;
        rgp_rig_free(to->rig);
        to->rig = rgp_rig_of_columns(file, summary, &without);
        to->foreign =
            g_strdup_printf("its columns alone are shown: the rig's text in it does not compile (%s)%s", why, without);
    }
    to->image = to->rig ? to->rig->image : NULL;
    return to->image != NULL;
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
        rgp_not_a_recording(error, path, whole ? "it is of a later version" : "it is not the JSON file of a recording");
    } else {
        to->seed = (uint64_t)seed;
        to->gaps = (uint64_t)gaps;
        to->ending = shown(ending);
        to->format = (int)format;
        sound = compile_rig(to, file, rig_text, rig_length, summary) ||
                rgp_not_a_recording(error, path, "the rig's text in it has errors");
        if (sound) {
            rgp_recording_circumstances(to, summary);
        }
    }
    json_decref(summary);
    return sound;
}

/* ---- the whole ------------------------------------------------------------------------------------- */

static rgp_recording *open_description(const char *name, GError **error)
{
    rgp_recording *r = g_new0(rgp_recording, 1);
    r->name = record_stem_of_part(name);
    r->inputs = rgp_inputs_new();
    if (read_summary(r, error) && rgp_recording_begin_table(r, error)) {
        rgp_recording_begin_events(r);
        return r;
    }
    rgp_recording_free(r);
    return NULL;
}

/* Up to its first row, or its end. */
static rgp_recording *begin_reading(rgp_recording *r, GError **error)
{
    while (r->rows == 0 && rgp_recording_go_on(r, 0)) {
    }
    if (!rgp_recording_check_table(r, error)) {
        rgp_recording_free(r);
        return NULL;
    }
    return r;
}

static void forget_rows(rgp_recording *r)
{
    rgp_history_free(r->history);
    r->history = NULL;
    g_clear_pointer(&r->has, g_free);
    g_clear_pointer(&r->torn, g_free);
    g_clear_pointer(&r->marks, g_free);
    g_clear_pointer(&r->block_at, g_array_unref);
}

static void forget_table(rgp_recording *r)
{
    rgp_recording_end_table(r);
    rgp_recording_free_index(r);
    forget_rows(r);
    g_clear_pointer(&r->timer, g_free);
    g_clear_pointer(&r->firing, g_array_unref);
}

/* Of a table that is not what its index says nothing is believed: it is read from its first row on. */
static bool begin_anew(rgp_recording *r, GError **error)
{
    forget_table(r);
    rgp_recording_end_events(r);
    rgp_inputs_free(r->inputs);
    r->inputs = rgp_inputs_new();
    r->rows = r->torn_rows = r->odd_mark = 0;
    r->changed = false;
    if (!rgp_recording_begin_table(r, error)) {
        return false;
    }
    rgp_recording_begin_events(r);
    return true;
}

rgp_recording *rgp_recording_open(const char *name, GError **error)
{
    rgp_recording *r = open_description(name, error);
    if (r && rgp_recording_take_index(r)) {
        rgp_recording_end_events(r);
        rgp_marks_read(r);
        return r;
    }
    if (r && r->index && !begin_anew(r, error)) {
        rgp_recording_free(r);
        return NULL;
    }
    return r ? begin_reading(r, error) : NULL;
}

/* Behind the last piece come the rest of the events, and the marks. */
static void finish(rgp_recording *r)
{
    if (r->rows > 0) {
        rgp_recording_end_events(r);
        rgp_marks_read(r);
        rgp_recording_write_index(r);
    }
    rgp_recording_end_table(r);
}

bool rgp_recording_go_on(rgp_recording *r, gint64 for_us)
{
    const gint64 until = g_get_monotonic_time() + for_us;
    bool more = r->table != NULL;
    while (more) {
        more = r->index ? rgp_recording_check_index(r) : rgp_recording_read_piece(r);
        more |= r->changed && begin_anew(r, NULL);
        if (more && g_get_monotonic_time() >= until) {
            return true;
        }
    }
    if (r->table && !r->index) {
        finish(r);
    }
    return false;
}

double rgp_recording_share(const rgp_recording *r)
{
    return r->table && !r->index ? rgp_recording_table_share(r) : 1.0;
}

rgp_recording *rgp_recording_read(const char *name, GError **error)
{
    rgp_recording *r = open_description(name, error);
    r = r ? begin_reading(r, error) : NULL;
    while (r && rgp_recording_go_on(r, G_MAXINT32)) {
    }
    return r;
}

char *rgp_recording_complaint(const rgp_recording *r)
{
    GString *says = g_string_new(NULL);
    if (r->foreign) {
        g_string_append(says, r->foreign);
    }
    if (r->torn_rows > 0) {
        g_string_append(says, says->len ? "; " : "");
        g_string_append_printf(says,
                               r->torn_rows == 1 ? "%u row was cut off or unreadable and left out: %s"
                                                 : "%u rows were cut off or unreadable and left out; the first is %s",
                               r->torn_rows, r->torn);
    }
    if (r->odd_mark > 0) {
        g_string_append_printf(says, "%sline %u of its marks is no mark, and is left out: mend or remove that line",
                               says->len ? "; " : "", r->odd_mark);
    }
    return g_string_free(says, says->len == 0);
}

void rgp_recording_free(rgp_recording *r)
{
    if (!r) {
        return;
    }
    forget_table(r);
    r->rows = 0; /* what is not read yet is not wanted */
    rgp_recording_end_events(r);
    rgp_inputs_free(r->inputs);
    g_free(r->param);
    g_free(r->told);
    g_clear_pointer(&r->kept, g_bytes_unref);
    g_free(r->name);
    g_free(r->ending);
    g_free(r->foreign);
    rgp_rig_free(r->rig);
    g_free(r);
}
