/* The events up to the row that is shown, the newest at the bottom. */
#include "screen.h"
#include "view.h"

static void draw_event(const rgp_occurrence *o, bool shown, int row, int column, int width)
{
    const ink with = rgp_occurrence_is_fault(o) ? INK_BAD : o->kind == RGP_EVENT_FIRED ? INK_PLAIN : INK_DIM;
    screen_printf(row, column, 10, shown ? INK_STRONG : INK_DIM, "%9.3f", o->time);
    if (o->kind == RGP_EVENT_FIRED && o->why && o->did) {
        screen_printf(row, column + 11, width - 11, with, "line %u: %s   since %s", o->line, o->did, o->why);
    } else {
        screen_put(row, column + 11, width - 11, with, o->says);
    }
}

void view_draw_events(const view *v, int row, int column, int rows, int width)
{
    const GPtrArray *all = rgp_history_occurrences(v->history);
    guint end = all->len;
    while (end > 0 && ((const rgp_occurrence *)all->pdata[end - 1])->row > v->row) {
        end--;
    }
    const guint from = end > (guint)rows ? end - (guint)rows : 0;
    for (guint i = from; i < end; i++) {
        const rgp_occurrence *o = all->pdata[i];
        draw_event(o, o->row == v->row, row + (int)(i - from), column, width);
    }
    if (end == 0 && rows > 0) {
        screen_put(row, column, width, INK_DIM, "nothing has happened yet");
    }
}
