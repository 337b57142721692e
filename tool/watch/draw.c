/* The picture: the head line, the list, the chart, the events, the bottom. */
#include "watch.h"

#include "tool/terminal/screen.h"

#include "explain/describe.h"

#include <string.h>

#define ROWS_LEAST    8
#define COLUMNS_LEAST 40
#define WIDE_FROM     120
#define CHART_LEAST   10 /* rows, where there are 24 */

static void put_state(const watching *w, GString *to)
{
    const bool over = rgp_door_over(w->door), recorded = w->door->ending != NULL;
    const uint64_t end = rgp_history_end(w->view.history);
    g_string_append_printf(to, " %s  ", rgp_image_text(w->view.image, RGP_NAME_RIG, 0, 0));
    if (w->view.frozen) {
        g_string_append_printf(to, "FROZEN at %.3f s", view_time(&w->view, w->view.row));
        if (!over) {
            g_string_append_printf(to, ", %.1f s ago; it runs on",
                                   view_time(&w->view, end - 1) - view_time(&w->view, w->view.row));
        }
    } else if (!over || recorded) {
        g_string_append_printf(to, "%s %.1f s",
                               over       ? "at"
                               : recorded ? "played"
                                          : "live",
                               view_time(&w->view, w->view.row));
    }
    if (over && recorded) {
        const double share = rgp_door_share(w->door);
        g_string_append_printf(to, " of %.1f s, recorded, %s", view_time(&w->view, end - 1), w->door->ending);
        if (share < 1.0) {
            g_string_append_printf(to, "; reading, %.0f %%", 100.0 * share);
        }
    } else if (over) {
        g_string_append_printf(to, "%sended after %.1f s", w->view.frozen ? "; " : "", view_time(&w->view, end - 1));
    }
}

static void put_ms(GString *to, const char *label, uint64_t us)
{
    g_string_append_printf(to, "%s%s", label, rgp_digits((double)us / 1e3, 2).text);
}

static void put_pace(watching *w, GString *to)
{
    if (w->recording) {
        g_string_append_printf(to, "  REC %s", w->recording);
    }
    g_string_append_printf(to, "  tick %g ms", w->view.image->tick_us / 1000.0);
    if (w->pace != 1.0) {
        g_string_append_printf(to, ", pace %g", w->pace);
    }
    if (w->door->ending) {
        return;
    }
    const rgp_delay late = rgp_door_delay(w->door);
    if (late.ticks == 0) {
        g_string_append(to, ", not paced");
        return;
    }
    put_ms(to, ", late: median ", late.median);
    put_ms(to, ", 99 % ", late.p99);
    g_autoptr(GString) worst = g_string_new(NULL);
    put_ms(worst, ", worst ", late.worst);
    const glong with = g_utf8_strlen(to->str, -1) + g_utf8_strlen(worst->str, -1) + (glong)strlen(" ms");
    g_string_append(to, with <= screen_columns() ? worst->str : "");
    g_string_append(to, " ms");
}

static void draw_header(watching *w)
{
    g_autoptr(GString) text = g_string_new(NULL);
    put_state(w, text);
    put_pace(w, text);
    screen_fill(0, 0, screen_columns(), INK_HEAD, text->str);
}

static void draw_bottom(const watching *w)
{
    const int row = screen_rows() - 1, width = screen_columns();
    const char *said = note_now(&w->note);
    if (w->prompt.question) {
        g_autofree char *text = prompt_text(&w->prompt, width);
        screen_fill(row, 0, width, INK_STRONG, text);
        if (said) { /* the reason why it was refused, above it */
            screen_fill(row - 1, 0, width, INK_WARN, said);
        }
    } else if (said) {
        screen_fill(row, 0, width, INK_WARN, said);
    } else {
        watch_draw_hints(w, row, width);
    }
}

static void draw_line(int row, int column, int width)
{
    for (int i = 0; i < width; i++) {
        screen_put(row, column + i, 1, INK_DIM, "─");
    }
}

/* The number of lines of the list that do not fit, on either side. */
static void draw_hidden(const watching *w, int row, int shown)
{
    const int above = (int)w->view.top, below = (int)w->view.item->len - above - shown;
    if (above > 0 && below > 0) {
        screen_printf(row, 2, 30, INK_PLAIN, " %d more above, %d below ", above, below);
    } else if (above + below > 0) {
        screen_printf(row, 2, 30, INK_PLAIN, " %d more %s ", above + below, above > 0 ? "above" : "below");
    }
}

/* Side by side where there is room, else below one another. */
static void draw_body(watching *w)
{
    const int rows = screen_rows() - 2, columns = screen_columns(), items = (int)w->view.item->len;
    const bool wide = columns >= WIDE_FROM;
    const int events = CLAMP(rows / 6, 2, 10);
    const int list = MIN(items, wide ? (rows - events - 2) / 2 : rows - events - 2 - MAX(CHART_LEAST, rows * 2 / 5));
    view_draw_list(&w->view, 1, list, columns);
    draw_line(1 + list, 0, columns);
    draw_hidden(w, 1 + list, list);
    const int from = w->tells_why ? watch_draw_why(w, 2 + list, rows - events, columns) : 2 + list;
    if (!w->tells_why || rows - events - from >= CHART_LEAST) {
        view_draw_chart(&w->view, from, 0, rows - events - from, columns);
    }
    draw_line(rows - events, 0, columns);
    const int chosen = view_draw_chosen(&w->view, rows - events + 1, events, columns);
    view_draw_events(&w->view, rows - events + 1 + chosen, 0, events - chosen, columns);
}

void watch_draw(watching *w)
{
    screen_clear();
    if (screen_rows() < ROWS_LEAST || screen_columns() < COLUMNS_LEAST) {
        screen_put(0, 0, screen_columns(), INK_PLAIN, "too small");
        screen_put(1, 0, screen_columns(), INK_DIM, "q leaves");
    } else if (w->help) {
        watch_draw_help();
        draw_bottom(w);
    } else if (rgp_history_end(w->view.history) == 0) {
        screen_put(0, 0, screen_columns(), INK_PLAIN, "waiting for the first tick");
    } else {
        draw_header(w);
        draw_body(w);
        draw_bottom(w);
    }
}
