/* Keys that change the picture: its scales, its curves, the chosen line. */
#include "watch.h"

#define SPAN_LEAST 0.1
#define SPAN_MOST  36000.0

static void zoom(watching *w, double factor)
{
    w->view.span = CLAMP(w->view.span * factor, SPAN_LEAST, SPAN_MOST);
}

void watch_zoom_in(watching *w)
{
    zoom(w, 0.5);
}

void watch_zoom_out(watching *w)
{
    zoom(w, 2.0);
}

static void zoom_value(watching *w, double factor)
{
    for (guint i = 0; i < PANELS_MOST; i++) {
        view_scale *s = &w->view.scale[i];
        const double middle = (s->low + s->high) / 2.0, half = (s->high - s->low) / 2.0 * factor;
        *s = (view_scale){true, middle - half, middle + half};
    }
}

void watch_value_in(watching *w)
{
    zoom_value(w, 0.5);
}

void watch_value_out(watching *w)
{
    zoom_value(w, 2.0);
}

void watch_value_auto(watching *w)
{
    const bool fixed = w->view.scale[0].fixed;
    for (guint i = 0; i < PANELS_MOST; i++) {
        w->view.scale[i].fixed = !fixed;
    }
    watch_say(w, fixed ? "the scale follows the values" : "the scale stands");
}

void watch_toggle_series(watching *w)
{
    view_item *is = view_selected(&w->view);
    if (is->kind == ITEM_RULE) {
        watch_say(w, "a rule has no curve; its firings stand below the chart");
        return;
    }
    if (is->series >= 0) {
        is->series = -1;
        return;
    }
    bool taken[SERIES_MOST] = {false};
    for (guint i = 0; i < w->view.item->len; i++) {
        if (view_item_at(&w->view, i)->series >= 0) {
            taken[view_item_at(&w->view, i)->series] = true;
        }
    }
    int free_place = 0;
    while (free_place < SERIES_MOST && taken[free_place]) {
        free_place++;
    }
    if (free_place == SERIES_MOST) {
        watch_say(w, "%d curves are the most; take one out first", SERIES_MOST);
    } else {
        is->series = free_place;
    }
}

void watch_select_up(watching *w)
{
    w->view.selected -= w->view.selected > 0;
}

void watch_select_down(watching *w)
{
    w->view.selected += w->view.selected + 1 < w->view.item->len;
}
