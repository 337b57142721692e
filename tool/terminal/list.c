/* The list: every sensor, signal, band, parameter, actuator and rule, with its value, its recent past, and what to
 * know. */
#include "screen.h"
#include "view.h"

#include "explain/describe.h"

#include <string.h>

enum { NAME_LEAST = 10, NAME_MOST = 18, NAME_COLUMN = 3, VALUE_WIDTH = 13, PAST_LEAST = 12, PAST_MOST = 40 };

/* ---- values ---------------------------------------------------------------------------------------- */

/* A number in its own unit, the numbers of a list below one another. */
static void put_value(const view *v, const view_item *i, GString *to)
{
    if (!rgp_usable(view_quality(v, i))) {
        g_string_append(to, rgp_quality_word(view_quality(v, i)));
        return;
    }
    const char *unit = view_unit(v, i);
    if (i->kind == ITEM_PARAM || i->kind == ITEM_ACTUATOR) {
        rgp_describe_value(v->image, i->index, view_value(v, i), to);
    } else if (view_is_sequence(v, i) && view_value(v, i) > 0.0f) {
        g_string_append_printf(to, "step %.0f", (double)view_value(v, i));
    } else {
        rgp_describe_cell(v->image, i->index, view_value(v, i), to);
        g_string_append_printf(to, *unit ? " %s" : "%s", unit);
    }
}

static void put_rule_state(const view *v, const view_item *i, GString *to)
{
    const double left = (double)view_value(v, i);
    if (!rgp_usable(view_quality(v, i))) {
        g_string_append(to, "fault");
    } else if (left > 0.0) {
        g_string_append_printf(to, "acts %.1f s", left);
    } else if (left < 0.0) {
        g_string_append_printf(to, "holdoff %.1f s", -left);
    } else {
        g_string_append(to, "ready");
    }
}

/* ---- the recent past ------------------------------------------------------------------------------- */

/* Cells for the past: more where the screen is wide. */
static int past_width(int width)
{
    return CLAMP(width / 7, PAST_LEAST, PAST_MOST);
}

static void put_past(const view *v, const view_item *i, int cells, GString *to)
{
    static const char *const level[] = {"▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"};
    const uint64_t now = rgp_history_time_us(v->history, v->row), span = (uint64_t)(v->span * 1e6);
    const uint64_t begin = now > span ? now - span : 0;
    const uint64_t from = rgp_history_find(v->history, begin);
    const rgp_extent all = rgp_history_extent(v->history, i->column, from, v->row + 1);
    for (int k = 0; k < cells; k++) {
        const uint64_t a = rgp_history_find(v->history, begin + (now - begin) * (uint64_t)k / (uint64_t)cells);
        const uint64_t b = rgp_history_find(v->history, begin + (now - begin) * (uint64_t)(k + 1) / (uint64_t)cells);
        const rgp_extent e = rgp_history_extent(v->history, i->column, a, MAX(b, a + 1));
        if (e.usable == 0 || a > v->row) {
            g_string_append(to, " ");
            continue;
        }
        const float range = all.greatest - all.least, middle = 0.5f * (e.least + e.greatest);
        const int at = range > 0.0f ? (int)(7.0f * (middle - all.least) / range + 0.5f) : 0;
        g_string_append(to, level[CLAMP(at, 0, 7)]);
    }
}

/* ---- lines ----------------------------------------------------------------------------------------- */

static ink ink_of(const view *v, const view_item *i)
{
    if (!rgp_usable(view_quality(v, i))) {
        return INK_BAD;
    }
    if (i->kind == ITEM_RULE) {
        const float left = view_value(v, i);
        return left > 0.0f ? INK_GOOD : left < 0.0f ? INK_WARN : INK_DIM;
    }
    if (i->kind == ITEM_ACTUATOR) {
        const uint32_t actuator = i->index - rgp_image_actuator_slot(v->image, 0);
        const float owner = rgp_history_value(v->history, rgp_history_owner(v->history, actuator), v->row);
        return owner == (float)RGP_OWNER_REST ? INK_PLAIN : owner == (float)RGP_OWNER_FAULT ? INK_BAD : INK_GOOD;
    }
    return INK_PLAIN;
}

/* As wide as the longest name, within bounds: a name cut short is a name to guess at, so on a narrow screen too. */
static int name_width(const view *v, int width)
{
    glong longest = NAME_LEAST;
    for (guint i = 0; i < v->item->len; i++) {
        longest = MAX(longest, g_utf8_strlen(view_name(v, view_item_at(v, i)), -1));
    }
    return (int)MIN(longest, CLAMP(width / 5, NAME_LEAST, NAME_MOST));
}

/* The column of an item's note; all items begin at column 0. */
static int note_column(const view_item *i, int names, int width)
{
    const int past = NAME_COLUMN + names + VALUE_WIDTH + 1;
    return i->kind == ITEM_RULE ? past : past + past_width(width) + 1;
}

static void draw_item(const view *v, const view_item *i, bool selected, int row, int width, int names)
{
    g_autoptr(GString) value = g_string_new(NULL), past = g_string_new(NULL), note = g_string_new(NULL);
    char mark[4] = " ";
    if (i->kind == ITEM_RULE) {
        put_rule_state(v, i, value);
    } else {
        put_value(v, i, value);
        put_past(v, i, past_width(width), past);
    }
    view_put_note(v, i, note);
    if (i->series >= 0) {
        g_snprintf(mark, sizeof mark, "%d", i->series + 1);
    }
    const int at_value = NAME_COLUMN + names, at_past = at_value + VALUE_WIDTH + 1,
              at_note = note_column(i, names, width);
    const int pad = MAX(0, VALUE_WIDTH - (int)g_utf8_strlen(value->str, -1));
    const ink with = ink_of(v, i), curve = i->series >= 0 ? (ink)(INK_SERIES + i->series) : INK_DIM;
    screen_put(row, 0, 1, INK_STRONG, selected ? ">" : " ");
    screen_put(row, 1, 1, curve, mark);
    screen_put(row, NAME_COLUMN, names, selected ? INK_STRONG : INK_PLAIN, view_name(v, i));
    screen_put(row, at_value + pad, VALUE_WIDTH, with, value->str);
    screen_put(row, at_past, past_width(width), curve, past->str);
    screen_put(row, at_note, width - at_note, selected ? INK_PLAIN : INK_DIM, note->str);
}

void view_draw_list(view *v, int row, int rows, int width)
{
    const int names = name_width(v, width);
    if (rows <= 0) {
        return;
    }
    if (v->selected < v->top) {
        v->top = v->selected;
    }
    if (v->selected >= v->top + (guint)rows) {
        v->top = v->selected - (guint)rows + 1;
    }
    if (v->top + (guint)rows > v->item->len) {
        v->top = v->item->len > (guint)rows ? v->item->len - (guint)rows : 0;
    }
    for (int k = 0; k < rows && v->top + (guint)k < v->item->len; k++) {
        const guint at = v->top + (guint)k;
        draw_item(v, view_item_at(v, at), at == v->selected, row + k, width, names);
    }
}

/* Bytes of a text that fit in so many columns, up to a space where there is one. */
static size_t bytes_of_line(const char *text, int width)
{
    if (g_utf8_strlen(text, -1) <= width) {
        return strlen(text);
    }
    const char *end = g_utf8_offset_to_pointer(text, width), *at = end;
    while (at > text && *at != ' ') {
        at--;
    }
    return (size_t)((at > text ? at : end) - text);
}

int view_draw_chosen(const view *v, int row, int rows, int width)
{
    g_autoptr(GString) note = g_string_new(NULL);
    if (v->item->len == 0) {
        return 0;
    }
    const view_item *i = view_item_at(v, v->selected);
    view_put_note(v, i, note);
    if (g_utf8_strlen(note->str, -1) <= width - note_column(i, name_width(v, width), width)) {
        return 0;
    }
    int used = 0;
    for (const char *at = note->str; *at && used < rows; used++) {
        const size_t length = bytes_of_line(at, width - 2);
        g_autofree char *line = g_strndup(at, length);
        screen_put(row + used, 1, width - 1, INK_PLAIN, line);
        at += length + strspn(at + length, " ");
    }
    return used;
}
