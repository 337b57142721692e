/* The page that tells why the chosen line is as it is, at the moment that is shown: of a recording, run again; of a rig
 * that runs from what has been recorded of it so far. */
#include "watch.h"

#include "analysis/explanation.h"
#include "tool/terminal/screen.h"

#include <string.h>

struct watch_why {
    rgp_recording *from;
    rgp_explanation *explanation;
    GString *text;
    guint item; /* that it tells of, at that row */
    uint64_t row;
};

/* The recording that is looked at, or that is being made; NULL: there is none. */
static const char *name_of(const watching *w)
{
    return w->recorded ? w->recorded : w->recording;
}

static bool begin_why(watching *w)
{
    g_autoptr(GError) error = NULL;
    struct watch_why *y = g_malloc0(sizeof *y);
    y->from = rgp_recording_read(name_of(w), &error);
    y->explanation = y->from && y->from->rows > 0 ? rgp_explanation_new(y->from, &error) : NULL;
    y->text = g_string_new(NULL);
    y->row = UINT64_MAX;
    w->why = y;
    if (!y->explanation) {
        watch_say(w, "%s", error ? error->message : "nothing has been recorded yet");
        watch_end_why(w);
    }
    return w->why != NULL;
}

void watch_end_why(watching *w)
{
    if (w->why) {
        rgp_explanation_free(w->why->explanation);
        rgp_recording_free(w->why->from);
        g_string_free(w->why->text, TRUE);
        g_clear_pointer(&w->why, g_free);
    }
    w->tells_why = false;
}

/* Of a rig that runs the moment is held: the next one is not recorded yet. */
void watch_toggle_why(watching *w)
{
    if (w->tells_why) {
        w->tells_why = false;
    } else if (!name_of(w)) {
        watch_say(w, "why is told of what is recorded: begin with --record NAME, or look at a recording (--from)");
    } else if (w->why || begin_why(w)) {
        w->tells_why = true;
        if (!w->view.frozen) {
            watch_toggle_freeze(w);
        }
    }
}

static rgp_reason *reason_of(const watching *w, const rgp_why *why, const view_item *item)
{
    const uint32_t actuators = rgp_image_actuator_slot(w->view.image, 0);
    const int32_t slot =
        item->kind == ITEM_RULE ? -1 : rgp_image_find(why->engine->image, RGP_FIND_SLOT, view_name(&w->view, item));
    return item->kind == ITEM_RULE       ? rgp_why_rule(why, item->index)
           : item->kind == ITEM_ACTUATOR ? rgp_why_actuator(why, item->index - actuators)
           : slot >= 0                   ? rgp_why_value(why, (uint32_t)slot)
                                         : NULL;
}

/* The recorded row of the shown moment; what has been recorded since is read when it is needed. UINT32_MAX: it has not
 * been written yet. */
static uint32_t find_row(watching *w)
{
    const uint64_t time_us = rgp_history_time_us(w->view.history, w->view.row);
    for (int again = 0; again < 2; again++) {
        const rgp_recording *r = w->why->from;
        if (r->rows > 0 && time_us <= rgp_recording_time_us(r, r->rows - 1)) {
            return (uint32_t)rgp_history_find(r->history, time_us);
        }
        if (w->recorded || again > 0) {
            break;
        }
        watch_end_why(w);
        if (!begin_why(w)) {
            break;
        }
        w->tells_why = true;
    }
    return UINT32_MAX;
}

static void put_text(watching *w)
{
    const uint32_t row = find_row(w);
    struct watch_why *y = w->why;
    const rgp_why *why = y && row != UINT32_MAX ? rgp_explanation_at(y->explanation, row) : NULL;
    if (!y) {
        return;
    }
    g_string_truncate(y->text, 0);
    if (!why) {
        g_string_append(y->text, "this moment has not been written yet; a second later it is");
        return;
    }
    rgp_reason *reason = reason_of(w, why, view_item_at(&w->view, w->view.selected));
    y->item = w->view.selected;
    y->row = w->view.row;
    if (reason) {
        rgp_reason_print(reason, y->text);
        rgp_reason_free(reason);
    }
    g_string_append(y->text, rgp_explanation_says(y->explanation));
}

/* A line that is too long goes on below, further right. Returns the row behind it. */
static int draw_line(const char *line, int row, int rows, int width)
{
    const int indent = (int)strspn(line, " ") + 6;
    const ink with = strncmp(line + strspn(line, " "), "no ", 3) == 0 ? INK_DIM : INK_PLAIN;
    int column = 0;
    while (*line && row < rows) {
        const glong length = g_utf8_strlen(line, -1);
        glong part = MIN(length, width - column);
        const char *end = g_utf8_offset_to_pointer(line, part);
        if (part < length) {
            const char *blank = g_strrstr_len(line, end - line, " ");
            end = blank && blank > line + strspn(line, " ") ? blank : end;
        }
        g_autofree char *shown = g_strndup(line, (gsize)(end - line));
        screen_put(row++, column, width - column, with, shown);
        line = *end == ' ' ? end + 1 : end;
        column = MIN(indent, width / 2);
    }
    return row;
}

int watch_draw_why(watching *w, int row, int rows, int width)
{
    if (w->why->row != w->view.row || w->why->item != w->view.selected) {
        put_text(w);
    }
    g_auto(GStrv) line = g_strsplit(w->why ? w->why->text->str : "", "\n", -1);
    for (char **one = line; *one && row < rows; one++) {
        row = **one ? draw_line(*one, row, rows, width) : row + 1;
    }
    return row;
}
