/* Keys that go through time. */
#include "watch.h"

#include <math.h>
#include <string.h>

static float value_of(const watching *w, const view_item *i)
{
    return rgp_history_value(w->view.history, i->column, w->view.row);
}

static void freeze(watching *w)
{
    if (!w->view.frozen) {
        w->view.frozen = true;
        w->view.right_us = rgp_history_time_us(w->view.history, w->view.row);
    }
}

static void go_to(watching *w, uint64_t row)
{
    freeze(w);
    w->view.row = CLAMP(row, rgp_history_first(w->view.history), rgp_history_end(w->view.history) - 1);
    const uint64_t at = rgp_history_time_us(w->view.history, w->view.row), span = (uint64_t)(w->view.span * 1e6);
    if (at > w->view.right_us) {
        w->view.right_us = at;
    } else if (w->view.right_us > span && at < w->view.right_us - span) {
        w->view.right_us = at + span;
    }
}

/* To somewhere else, from where one can come back. */
static void jump_to(watching *w, uint64_t row)
{
    w->was_row = w->view.row;
    go_to(w, row);
}

void watch_jump_back(watching *w)
{
    if (w->was_row == UINT64_MAX) {
        watch_say(w, "there was no jump yet");
    } else {
        jump_to(w, w->was_row);
    }
}

void watch_toggle_freeze(watching *w)
{
    if (w->view.frozen) {
        w->view.frozen = false;
    } else {
        freeze(w);
    }
}

void watch_step_back(watching *w)
{
    go_to(w, w->view.row > rgp_history_first(w->view.history) ? w->view.row - 1 : w->view.row);
}

void watch_step_on(watching *w)
{
    go_to(w, w->view.row + 1);
}

static void jump_seconds(watching *w, double seconds)
{
    const double time = fmax(0.0, view_time(&w->view, w->view.row) + seconds);
    go_to(w, rgp_history_find(w->view.history, (uint64_t)llround(time * 1e6)));
}

void watch_scroll_back(watching *w)
{
    jump_seconds(w, -w->view.span / 4.0);
}

void watch_scroll_on(watching *w)
{
    jump_seconds(w, w->view.span / 4.0);
}

void watch_go_first(watching *w)
{
    jump_to(w, rgp_history_first(w->view.history));
}

void watch_go_last(watching *w)
{
    jump_to(w, rgp_history_end(w->view.history) - 1);
    w->view.frozen = rgp_door_over(w->door);
}

static bool is_milestone(const rgp_occurrence *o)
{
    return o->kind != RGP_EVENT_ENDED && o->kind != RGP_EVENT_DROPPED;
}

/* The row at which a stretch ends; an event or a mark has only its own row. */
static uint64_t last_row(const watching *w, const rgp_occurrence *o)
{
    const uint64_t last = rgp_history_end(w->view.history) - 1;
    return o->until > o->time ? MIN(rgp_history_find(w->view.history, (uint64_t)llround(o->until * 1e6)), last)
                              : o->row;
}

static uint64_t nearer_after(uint64_t here, uint64_t a, uint64_t best)
{
    return a > here && a < best ? a : best;
}

void watch_next_event(watching *w)
{
    const GPtrArray *all = rgp_history_occurrences(w->view.history);
    uint64_t next = UINT64_MAX;
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *o = all->pdata[i];
        if (is_milestone(o)) {
            next = nearer_after(w->view.row, o->row, next);
            next = nearer_after(w->view.row, last_row(w, o), next);
        }
    }
    if (next == UINT64_MAX) {
        watch_say(w, "no event after this");
    } else {
        jump_to(w, next);
    }
}

void watch_previous_event(watching *w)
{
    const GPtrArray *all = rgp_history_occurrences(w->view.history);
    uint64_t before = UINT64_MAX;
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *o = all->pdata[i];
        const uint64_t last = last_row(w, o), at = last < w->view.row ? last : o->row;
        if (is_milestone(o) && at < w->view.row && (before == UINT64_MAX || at > before)) {
            before = at;
        }
    }
    if (before == UINT64_MAX) {
        watch_say(w, "no event before this");
    } else {
        jump_to(w, before);
    }
}

/* "12.5 s"; "-0.4 s", from here; or "depth 2 cm": to where it has changed by more than that from what it is here. */
static bool take_jump(void *self, const char *answer)
{
    watching *w = self;
    const char *why, *space = strchr(answer, ' ');
    double number;
    if (rgp_quantity_parse(answer, "s", &number, &why)) {
        const double from = *answer == '+' || *answer == '-' ? view_time(&w->view, w->view.row) : 0.0;
        jump_to(w, rgp_history_find(w->view.history, (uint64_t)llround(CLAMP(from + number, 0.0, 1e12) * 1e6)));
        return true;
    }
    for (guint i = 0; space && i < w->view.item->len; i++) {
        const view_item *is = view_item_at(&w->view, i);
        if (strlen(view_name(&w->view, is)) != (size_t)(space - answer) ||
            strncmp(view_name(&w->view, is), answer, (size_t)(space - answer)) != 0) {
            continue;
        }
        if (!rgp_quantity_parse(space + 1, view_unit(&w->view, is), &number, &why)) {
            watch_say(w, "%s: %s", answer, why);
            return false;
        }
        const double here = (double)value_of(w, is);
        for (uint64_t row = w->view.row + 1; row < rgp_history_end(w->view.history); row++) {
            if (rgp_usable(rgp_history_quality(w->view.history, is->column, row)) &&
                fabs((double)rgp_history_value(w->view.history, is->column, row) - here) > number) {
                jump_to(w, row);
                return true;
            }
        }
        watch_say(w, "%s does not change by more than that after this", view_name(&w->view, is));
        return true;
    }
    watch_say(w,
              "write a time ('12.5 s', or '-0.4 s' from here), or a name and how far it has to change ('depth 2 cm')");
    return false;
}

void watch_ask_jump(watching *w)
{
    watch_ask(w, take_jump, 0, "jump to a time ('12.5 s'; '-0.4 s' from here) or to a change ('depth 2 cm')");
}
