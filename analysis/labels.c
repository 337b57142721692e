/* Marks and stretches of recordings as idle time and events, shared out into what chooses and what judges. */
#include "labels.h"

#include "explain/describe.h"

#include <gsl/gsl_sort.h>

#include <math.h>
#include <string.h>

#define RECORDINGS_SPLIT 4u /* from so many on whole recordings are held out */

/* Those that people have put, and those of rules: a sensor that is there for the trial alone may tell the event. */
static GPtrArray *marks_of(const rgp_recording *r)
{
    const GPtrArray *all = rgp_history_occurrences(r->history);
    GPtrArray *marks = g_ptr_array_new();
    for (guint i = 0; i < all->len; i++) {
        if (((const rgp_occurrence *)all->pdata[i])->kind == RGP_EVENT_MARK) {
            g_ptr_array_add(marks, all->pdata[i]);
        }
    }
    return marks;
}

/* ---- what is labelled ------------------------------------------------------------------------------ */

static uint32_t row_at(const rgp_recording *r, double seconds)
{
    return seconds <= 0.0 ? 0 : (uint32_t)MIN(rgp_history_find(r->history, (uint64_t)llround(seconds * 1e6)), r->rows);
}

static void add_label(rgp_labels *l, guint run, const rgp_occurrence *o)
{
    const rgp_recording *r = l->run[run];
    const bool idle = strcmp(o->of, l->idle_name) == 0, moment = !(o->until > o->time);
    if ((idle && moment) || (!idle && strcmp(o->of, l->event_name) != 0)) {
        return;
    }
    const rgp_rows rows = {.run = run,
                           .from = row_at(r, moment ? o->time - RGP_MARK_BEFORE_S : o->time),
                           .to = row_at(r, moment ? o->time + RGP_MARK_AFTER_S : o->until)};
    if (rows.to > rows.from) {
        g_array_append_val(idle ? l->idle : l->event, rows);
    }
}

/* A name that no mark has: perhaps another one is meant, or nothing is marked yet. */
static void refuse_name(rgp_recording *const *run, guint runs, const char *name, bool idle, GError **error)
{
    g_autoptr(GPtrArray) names = g_ptr_array_new();
    for (guint i = 0; i < runs; i++) {
        g_autoptr(GPtrArray) marks = marks_of(run[i]);
        for (guint k = 0; k < marks->len; k++) {
            g_ptr_array_add(names, ((rgp_occurrence *)marks->pdata[k])->of);
        }
    }
    const char *near = rgp_nearest_word(name, (const char *const *)names->pdata, names->len);
    g_autofree char *way =
        near   ? g_strdup_printf("did you mean '%s'?", near)
        : idle ? g_strdup_printf("say when nothing happened: rigpulse mark %s %s 0..60s", run[0]->name, name)
               : g_strdup_printf("'rigpulse mark %s' lists the marks", run[0]->name);
    g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "no %s is called '%s'; %s", idle ? "stretch" : "mark", name,
                way);
}

/* The only name besides that of idle time; NULL with *error when there is none, or several. */
static char *find_event_name(rgp_recording *const *run, guint runs, const char *idle, GError **error)
{
    g_autoptr(GPtrArray) names = g_ptr_array_new_with_free_func(g_free);
    bool any_idle = false;
    for (guint i = 0; i < runs; i++) {
        g_autoptr(GPtrArray) marks = marks_of(run[i]);
        for (guint k = 0; k < marks->len; k++) {
            const rgp_occurrence *o = marks->pdata[k];
            any_idle |= strcmp(o->of, idle) == 0;
            if (strcmp(o->of, idle) != 0 && !g_ptr_array_find_with_equal_func(names, o->of, g_str_equal, NULL)) {
                g_ptr_array_add(names, g_strdup(o->of));
            }
        }
    }
    if (!any_idle) {
        refuse_name(run, runs, idle, true, error);
        return NULL;
    }
    if (names->len == 1) {
        return g_strdup(names->pdata[0]);
    }
    if (names->len == 0) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "no event is marked; put each one: rigpulse mark %s bump 12.5s, or as a stretch 12.1..12.9s",
                    run[0]->name);
        return NULL;
    }
    g_ptr_array_add(names, NULL);
    g_autofree char *all = g_strjoinv("', '", (char **)names->pdata);
    g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                "there are marks of several names ('%s'); say which is the "
                "event: --event '%s'",
                all, (char *)names->pdata[0]);
    return NULL;
}

static bool check_overlaps(const rgp_labels *l, GError **error)
{
    for (guint i = 0; i < l->idle->len; i++) {
        const rgp_rows *a = &g_array_index(l->idle, rgp_rows, i);
        for (guint k = 0; k < l->event->len; k++) {
            const rgp_rows *b = &g_array_index(l->event, rgp_rows, k);
            if (a->run == b->run && a->from < b->to && b->from < a->to) {
                const rgp_recording *r = l->run[a->run];
                g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                            "%s: '%s' at %.3f s lies in '%s', which begins at %.3f s; a stretch in which the event "
                            "happens is not idle: rigpulse mark %s --move N=FROM..TO",
                            r->name, l->event_name, (double)rgp_recording_time_us(r, b->from) / 1e6, l->idle_name,
                            (double)rgp_recording_time_us(r, a->from) / 1e6, r->name);
                return false;
            }
        }
    }
    return true;
}

static bool check_enough(const rgp_labels *l, GError **error)
{
    if (l->idle->len == 0) {
        refuse_name(l->run, l->runs, l->idle_name, true, error);
        return false;
    }
    if (l->event->len == 0) {
        refuse_name(l->run, l->runs, l->event_name, false, error);
        return false;
    }
    return check_overlaps(l, error);
}

static bool check_ticks(rgp_recording *const *run, guint runs, GError **error)
{
    for (guint i = 1; i < runs; i++) {
        if (run[i]->image->tick_us != run[0]->image->tick_us) {
            g_set_error(
                error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                "%s ticks every %g ms and %s every %g ms; a width in ticks of one is another in the other: take "
                "them one at a time",
                run[0]->name, run[0]->image->tick_us / 1e3, run[i]->name, run[i]->image->tick_us / 1e3);
            return false;
        }
    }
    return true;
}

rgp_labels *rgp_labels_of(rgp_recording *const *run, guint runs, const char *idle, const char *event, GError **error)
{
    char *name = event                           ? g_strdup(event)
                 : check_ticks(run, runs, error) ? find_event_name(run, runs, idle, error)
                                                 : NULL;
    if (!name || !check_ticks(run, runs, error)) {
        g_free(name);
        return NULL;
    }
    rgp_labels *l = g_new0(rgp_labels, 1);
    *l = (rgp_labels){.run = run,
                      .runs = runs,
                      .idle_name = g_strdup(idle),
                      .event_name = name,
                      .idle = g_array_new(FALSE, FALSE, sizeof(rgp_rows)),
                      .event = g_array_new(FALSE, FALSE, sizeof(rgp_rows)),
                      .block = g_array_new(FALSE, FALSE, sizeof(rgp_rows)),
                      .piece = g_array_new(FALSE, FALSE, sizeof(rgp_rows)),
                      .tick_s = run[0]->image->tick_us / 1e6};
    for (guint i = 0; i < runs; i++) {
        g_autoptr(GPtrArray) marks = marks_of(run[i]);
        for (guint k = 0; k < marks->len; k++) {
            add_label(l, i, marks->pdata[k]);
        }
    }
    if (!check_enough(l, error)) {
        rgp_labels_free(l);
        return NULL;
    }
    rgp_labels_split(l, RGP_BLOCK_LEAST_S, RGP_BLOCK_LEAST_S, 0.0);
    return l;
}

void rgp_labels_free(rgp_labels *l)
{
    if (l) {
        g_array_unref(l->idle);
        g_array_unref(l->event);
        g_array_unref(l->block);
        g_array_unref(l->piece);
        g_free(l->idle_name);
        g_free(l->event_name);
        g_free(l);
    }
}

/* ---- what chooses and what judges ------------------------------------------------------------------ */

static void cut_block(rgp_labels *l, const rgp_rows *block, uint32_t piece_rows, uint32_t gap_rows, bool border)
{
    for (uint32_t from = block->from; from + piece_rows <= block->to; from += piece_rows) {
        const rgp_rows piece = {block->run, from, from + piece_rows, block->judges,
                                border && from < block->from + gap_rows};
        g_array_append_val(l->piece, piece);
    }
}

/* A stretch in equal blocks. */
static void cut_stretch(rgp_labels *l, const rgp_rows *idle, double block_s, double least_s, uint32_t gap_rows,
                        bool *judges)
{
    const double length_s = rgp_rows_seconds(l, idle);
    const uint32_t count = (uint32_t)MAX(1.0, floor(length_s / block_s)), rows = (idle->to - idle->from) / count,
                   piece_rows = (uint32_t)MAX(1.0, RGP_PIECE_S / l->tick_s);
    if (length_s < least_s) {
        return;
    }
    for (uint32_t i = 0; i < count; i++) {
        const uint32_t from = idle->from + i * rows;
        const rgp_rows block = {idle->run, from, i + 1 == count ? idle->to : from + rows,
                                l->by_recording ? idle->run % 2 : *judges, false};
        g_array_append_val(l->block, block);
        cut_block(l, &block, piece_rows, gap_rows, !l->by_recording && i > 0);
        *judges = !*judges;
    }
}

void rgp_labels_split(rgp_labels *l, double block_s, double least_s, double gap_s)
{
    bool judges = false;
    l->by_recording = l->runs >= RECORDINGS_SPLIT;
    l->each_event = !l->by_recording && l->event->len < RGP_EVENTS_SPLIT;
    g_array_set_size(l->block, 0);
    g_array_set_size(l->piece, 0);
    for (guint i = 0; i < l->idle->len; i++) {
        cut_stretch(l, &g_array_index(l->idle, rgp_rows, i), block_s, least_s, (uint32_t)ceil(gap_s / l->tick_s),
                    &judges);
    }
    for (guint i = 0; i < l->event->len; i++) {
        rgp_rows *event = &g_array_index(l->event, rgp_rows, i);
        event->judges = l->by_recording ? event->run % 2 : !l->each_event && i % 2;
    }
}

/* ---- in words, and lengths ------------------------------------------------------------------------- */

double rgp_rows_seconds(const rgp_labels *l, const rgp_rows *rows)
{
    return (rows->to - rows->from) * l->tick_s;
}

double rgp_labels_idle_s(const rgp_labels *l)
{
    double idle_s = 0.0;
    for (guint i = 0; i < l->idle->len; i++) {
        idle_s += rgp_rows_seconds(l, &g_array_index(l->idle, rgp_rows, i));
    }
    return idle_s;
}

char *rgp_labels_text(const rgp_labels *l)
{
    g_autoptr(GString) idle = g_string_new(NULL);
    rgp_describe_span(rgp_labels_idle_s(l), idle);
    return g_strdup_printf("%u event%s '%s' and %s of '%s' in %u recording%s", l->event->len,
                           l->event->len == 1 ? "" : "s", l->event_name, idle->str, l->idle_name, l->runs,
                           l->runs == 1 ? "" : "s");
}

static double tenth(double *of, guint count)
{
    gsl_sort(of, 1, count);
    return count > 0 ? of[count / 10] : (double)INFINITY;
}

double rgp_labels_event_length(const rgp_labels *l)
{
    g_autofree double *length = g_new(double, l->event->len);
    for (guint i = 0; i < l->event->len; i++) {
        length[i] = rgp_rows_seconds(l, &g_array_index(l->event, rgp_rows, i));
    }
    return tenth(length, l->event->len);
}

double rgp_labels_event_spacing(const rgp_labels *l)
{
    g_autofree double *spacing = g_new(double, l->event->len);
    guint count = 0;
    for (guint i = 1; i < l->event->len; i++) {
        const rgp_rows *a = &g_array_index(l->event, rgp_rows, i - 1), *b = a + 1;
        if (a->run == b->run) {
            spacing[count++] = (b->from - a->from) * l->tick_s;
        }
    }
    return tenth(spacing, count);
}
