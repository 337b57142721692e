/* The differences between two runs over the same rows. */
#include "differences.h"

#include <math.h>
#include <string.h>

typedef struct comparing {
    const rgp_recording *then;
    const rgp_rig *rig;
    const rgp_history *now;
    uint64_t near_us;
    rgp_differences *to;
} comparing;

/* ---- signals ---------------------------------------------------------------------------------------- */

static rgp_signal_difference compare_signal(const comparing *c, uint32_t slot, uint32_t was)
{
    const rgp_history *h = c->then->history;
    const uint32_t a = (uint32_t)rgp_history_slot(h, was), b = (uint32_t)rgp_history_slot(c->now, slot);
    rgp_signal_difference d = {.name = rgp_image_text(c->rig->image, RGP_NAME_SLOT, slot, 0),
                               .unit = rgp_image_unit(c->rig->image, RGP_NAME_SLOT, slot, 0),
                               .slot = slot,
                               .first = RGP_NO_ROW,
                               .most_at = RGP_NO_ROW};
    for (uint32_t row = 0; row < c->to->rows; row++) {
        const uint64_t same = rgp_history_same_rows(h, a, c->now, b, row);
        if (same > 0) {
            row += (uint32_t)same - 1;
            continue;
        }
        const float x = rgp_history_value(h, a, row), y = rgp_history_value(c->now, b, row);
        const rgp_quality p = rgp_history_quality(h, a, row), q = rgp_history_quality(c->now, b, row);
        if (p == q && x >= y && x <= y) {
            continue;
        }
        d.first = d.rows++ == 0 ? row : d.first;
        const double apart = fabs((double)x - (double)y);
        if (rgp_usable(p) && rgp_usable(q) && apart > d.most) {
            d.most = apart;
            d.most_at = row;
        }
    }
    return d;
}

static bool is_actuator(const rgp_image_header *image, uint32_t slot)
{
    const uint32_t first = rgp_image_actuator_slot(image, 0);
    return slot >= first && slot < first + rgp_image_count(image, RGP_SECTION_ACTUATORS);
}

static void compare_signals(const comparing *c)
{
    const rgp_image_header *image = c->rig->image;
    for (uint32_t slot = 0; slot < image->slots; slot++) {
        const char *name = rgp_image_text(image, RGP_NAME_SLOT, slot, 0);
        const int32_t was =
            rgp_history_slot(c->now, slot) >= 0 ? rgp_image_find(c->then->image, RGP_FIND_SLOT, name) : -1;
        if (was < 0 || !c->then->has[was]) {
            continue;
        }
        const rgp_signal_difference d = compare_signal(c, slot, (uint32_t)was);
        if (d.rows > 0) {
            g_array_append_val(c->to->signal, d);
        }
        if (is_actuator(image, slot)) {
            c->to->actuators++;
            c->to->driven = MIN(c->to->driven, d.first);
        }
    }
}

/* Of the same text the owners have the same numbers. */
static void compare_owners(const comparing *c)
{
    for (uint32_t row = 0; c->to->same_text && row < c->to->rows; row++) {
        bool differs = false;
        for (uint32_t i = 0; i < rgp_image_count(c->rig->image, RGP_SECTION_ACTUATORS); i++) {
            differs |= (uint32_t)rgp_history_value(c->then->history, rgp_history_owner(c->then->history, i), row) !=
                       (uint32_t)rgp_history_value(c->now, rgp_history_owner(c->now, i), row);
        }
        c->to->owners += differs;
    }
}

static void find_absent(const comparing *c)
{
    for (uint32_t slot = 0; slot < c->then->image->slots; slot++) {
        const char *name = rgp_image_text(c->then->image, RGP_NAME_SLOT, slot, 0);
        if (c->then->has[slot] && rgp_image_find(c->rig->image, RGP_FIND_SLOT, name) < 0) {
            g_ptr_array_add(c->to->absent, (void *)(uintptr_t)name);
        }
    }
}

/* ---- events ----------------------------------------------------------------------------------------- */

/* The events of one kind and subject, of one run. */
typedef struct group {
    uint8_t kind;
    const char *of;
    uint32_t line;
    GPtrArray *event;
    struct group *partner; /* of the other run; NULL: it has none */
} group;

static void free_group(void *one)
{
    group *g = one;
    g_ptr_array_unref(g->event);
    g_free(g);
}

static group *find_group(const GPtrArray *groups, uint8_t kind, const char *of)
{
    for (guint i = 0; i < groups->len; i++) {
        group *g = groups->pdata[i];
        if (g->kind == kind && strcmp(g->of, of) == 0) {
            return g;
        }
    }
    return NULL;
}

/* A mark by hand is no doing of the rig. */
static bool counts(const rgp_occurrence *o, uint32_t rows)
{
    return o->kind < RGP_EVENTS && o->row < rows && !(o->kind == RGP_EVENT_MARK && o->line == 0);
}

static GPtrArray *groups_of(const rgp_history *h, uint32_t rows)
{
    GPtrArray *groups = g_ptr_array_new_with_free_func(free_group);
    const GPtrArray *all = rgp_history_occurrences(h);
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *o = all->pdata[i];
        if (!counts(o, rows)) {
            continue;
        }
        group *g = find_group(groups, o->kind, o->of);
        if (!g) {
            g = g_new0(group, 1);
            *g = (group){o->kind, o->of, o->line, g_ptr_array_new(), NULL};
            g_ptr_array_add(groups, g);
        }
        g_ptr_array_add(g->event, (void *)(uintptr_t)o);
    }
    return groups;
}

static group *next_alone(const GPtrArray *groups, uint8_t kind, guint *from)
{
    for (; *from < groups->len; (*from)++) {
        group *g = groups->pdata[*from];
        if (g->kind == kind && !g->partner) {
            return groups->pdata[(*from)++];
        }
    }
    return NULL;
}

static gint by_line(gconstpointer a, gconstpointer b)
{
    const group *x = *(const group *const *)a, *y = *(const group *const *)b;
    return x->line != y->line ? (x->line > y->line) - (x->line < y->line) : (x->kind > y->kind) - (x->kind < y->kind);
}

/* First by their words. A rule whose own words were changed goes with the one that is left over in its place, in the
 * order of lines. */
static void find_partners(GPtrArray *then, GPtrArray *now)
{
    for (guint i = 0; i < now->len; i++) {
        group *g = now->pdata[i];
        g->partner = find_group(then, g->kind, g->of);
        if (g->partner) {
            g->partner->partner = g;
        }
    }
    g_ptr_array_sort(then, by_line);
    g_ptr_array_sort(now, by_line);
    static const uint8_t of_rules[] = {RGP_EVENT_FIRED, RGP_EVENT_DROPPED};
    for (size_t n = 0; n < G_N_ELEMENTS(of_rules); n++) {
        guint i = 0, k = 0;
        group *a, *b;
        while ((a = next_alone(then, of_rules[n], &i)) && (b = next_alone(now, of_rules[n], &k))) {
            a->partner = b;
            b->partner = a;
        }
    }
}

static const rgp_occurrence *event_at(const GPtrArray *events, guint i)
{
    return events && i < events->len ? events->pdata[i] : NULL;
}

static uint64_t time_us(const comparing *c, const rgp_occurrence *o)
{
    return rgp_recording_time_us(c->then, (uint32_t)o->row);
}

static uint64_t apart_us(const comparing *c, const rgp_occurrence *a, const rgp_occurrence *b)
{
    const uint64_t x = time_us(c, a), y = time_us(c, b);
    return x > y ? x - y : y - x;
}

/* The least time between two of them; ten times what is near when there are no two. */
static uint64_t least_gap_us(const comparing *c, const GPtrArray *events)
{
    uint64_t least = 20 * c->near_us;
    for (guint i = 1; events && i < events->len; i++) {
        const uint64_t gap = apart_us(c, events->pdata[i - 1], events->pdata[i]);
        least = i == 1 ? gap : MIN(least, gap);
    }
    return least;
}

/* True when the two go together: near, and neither has a nearer one behind it. */
static bool goes_with(const comparing *c, const GPtrArray *then, const GPtrArray *now, guint i, guint k,
                      uint64_t near_us)
{
    const rgp_occurrence *a = event_at(then, i), *b = event_at(now, k), *after = event_at(then, i + 1),
                         *behind = event_at(now, k + 1);
    const uint64_t apart = apart_us(c, a, b);
    return apart <= near_us && !(after && apart_us(c, after, b) < apart) && !(behind && apart_us(c, a, behind) < apart);
}

static void add_pair(const comparing *c, rgp_event_difference *d, const rgp_occurrence *then, const rgp_occurrence *now)
{
    const rgp_event_pair pair = {then ? (uint32_t)then->row : RGP_NO_ROW, now ? (uint32_t)now->row : RGP_NO_ROW, then,
                                 now};
    g_array_append_val(d->pair, pair);
    d->missing += then && !now;
    d->added += now && !then;
    if (then && now) {
        const double shift = ((double)time_us(c, now) - (double)time_us(c, then)) / 1e6;
        d->same += then->row == now->row;
        if (then->row != now->row) {
            d->earliest = d->shifted > 0 ? fmin(d->earliest, shift) : shift;
            d->latest = d->shifted > 0 ? fmax(d->latest, shift) : shift;
            d->shifted++;
        }
    }
}

/* `then`, `now`: the events of the group in either run; NULL: none. */
static void compare_events(const comparing *c, const group *known, const GPtrArray *then, const GPtrArray *now)
{
    rgp_event_difference *d = g_new0(rgp_event_difference, 1);
    *d = (rgp_event_difference){.kind = known->kind,
                                .of = known->of,
                                .line = known->line,
                                .pair = g_array_new(FALSE, FALSE, sizeof(rgp_event_pair))};
    const uint64_t near_us = MAX(c->near_us, MIN(least_gap_us(c, then), least_gap_us(c, now)) / 2);
    guint i = 0, k = 0;
    while (event_at(then, i) || event_at(now, k)) {
        const rgp_occurrence *a = event_at(then, i), *b = event_at(now, k);
        if (a && b && goes_with(c, then, now, i, k, near_us)) {
            add_pair(c, d, a, b);
            i++;
            k++;
        } else if (a && (!b || a->row <= b->row)) {
            add_pair(c, d, a, NULL);
            i++;
        } else {
            add_pair(c, d, NULL, b);
            k++;
        }
    }
    c->to->none = c->to->none && d->shifted + d->added + d->missing == 0;
    g_ptr_array_add(c->to->event, d);
}

static void compare_all_events(const comparing *c)
{
    GPtrArray *then = groups_of(c->then->history, c->to->rows), *now = groups_of(c->now, c->to->rows);
    find_partners(then, now);
    for (guint i = 0; i < now->len; i++) {
        const group *g = now->pdata[i];
        compare_events(c, g, g->partner ? g->partner->event : NULL, g->event);
    }
    for (guint i = 0; i < then->len; i++) {
        const group *g = then->pdata[i];
        if (!g->partner) {
            compare_events(c, g, g->event, NULL);
        }
    }
    g_ptr_array_unref(then);
    g_ptr_array_unref(now);
}

/* ---- the whole -------------------------------------------------------------------------------------- */

static void free_event(void *one)
{
    rgp_event_difference *d = one;
    g_array_unref(d->pair);
    g_free(d);
}

rgp_differences *rgp_differences_of(const rgp_recording *then, const rgp_rig *rig, const rgp_history *now,
                                    double near_s)
{
    rgp_differences *d = g_new0(rgp_differences, 1);
    *d = (rgp_differences){.same_text = strcmp(then->rig->source, rig->source) == 0,
                           .rows = (uint32_t)MIN(then->rows, rgp_history_end(now)),
                           .driven = RGP_NO_ROW,
                           .absent = g_ptr_array_new(),
                           .signal = g_array_new(FALSE, FALSE, sizeof(rgp_signal_difference)),
                           .event = g_ptr_array_new_with_free_func(free_event)};
    const comparing c = {then, rig, now, (uint64_t)(near_s * 1e6), d};
    compare_signals(&c);
    compare_owners(&c);
    find_absent(&c);
    d->none = d->signal->len == 0 && d->owners == 0 && d->absent->len == 0 && d->rows == then->rows;
    compare_all_events(&c);
    return d;
}

void rgp_differences_free(rgp_differences *d)
{
    g_ptr_array_unref(d->absent);
    g_array_unref(d->signal);
    g_ptr_array_unref(d->event);
    g_free(d);
}
