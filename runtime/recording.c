/* The reader of recordings: their circumstances and their events; the table is read in recording_table.c. */
#include "recording_parts.h"

#include "files/files.h"
#include "former.h"
#include "marks.h"
#include "record_name.h"
#include "explain/describe.h"

#include <gio/gio.h>
#include <jansson.h>
#include <math.h>
#include <string.h>

/* ---- the other two files ------------------------------------------------------------------------- */

/* A copy that can be shown; of NULL, NULL. */
static char *shown(const char *text)
{
    char *copy = g_strdup(text);
    return copy ? rgp_make_printable(copy, false) : NULL;
}

/* Where a text of another version, or one that somebody has changed, does not compile, the columns are described
 * without it. */
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

rgp_recording *rgp_recording_read(const char *name, GError **error)
{
    rgp_recording *r = g_new0(rgp_recording, 1);
    r->name = record_stem_of_part(name);
    r->inputs = rgp_inputs_new();
    if (!read_summary(r, error) || !rgp_recording_read_table(r, error)) {
        rgp_recording_free(r);
        return NULL;
    }
    read_events(r);
    rgp_marks_read(r);
    rgp_recording_put_timers(r);
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
        g_string_append_printf(says, "%sline %u of its marks is none, and left out", says->len ? "; " : "",
                               r->odd_mark);
    }
    return g_string_free(says, says->len == 0);
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
    g_free(r->marks);
    g_free(r->foreign);
    rgp_rig_free(r->rig);
    g_free(r);
}
