/* A recording behind the door. */
#include "playback.h"

#include "recording.h"

#include <gio/gio.h>

#define AT_ONCE_US 100000 /* of reading, before anything is shown */
#define BESIDE_US  50000  /* in each look */

typedef struct playback {
    rgp_door door;
    rgp_recording *recording;

    /* of one that is played */
    rgp_history *shown; /* its rows up to now; NULL: it is not played */
    guint occurrences;  /* of the recording, that are shown */
    double pace;
    gint64 since;   /* wall clock, microseconds; 0: it pauses */
    double time_us; /* of the recording, at `since` */
} playback;

/* ---- playing --------------------------------------------------------------------------------------- */

static double time_now(const playback *p)
{
    return p->since ? p->time_us + p->pace * (double)(g_get_monotonic_time() - p->since) : p->time_us;
}

static void set_clock(playback *p, double pace, bool goes)
{
    p->time_us = time_now(p);
    p->pace = pace;
    p->since = goes ? g_get_monotonic_time() : 0;
}

static void show_occurrence(playback *p, const rgp_occurrence *of)
{
    rgp_occurrence o = *of;
    o.of = g_strdup(of->of);
    o.says = g_strdup(of->says);
    o.why = g_strdup(of->why);
    o.did = g_strdup(of->did);
    rgp_history_occurred(p->shown, &o);
}

static void show_row(playback *p, uint64_t row)
{
    const rgp_history *from = p->recording->history;
    const uint32_t columns = rgp_history_columns(from);
    g_autofree float *value = g_new(float, columns + 1);
    g_autofree rgp_quality *quality = g_new(rgp_quality, columns + 1);
    for (uint32_t i = 0; i < columns; i++) {
        value[i] = rgp_history_value(from, i, row);
        quality[i] = rgp_history_quality(from, i, row);
    }
    const GPtrArray *all = rgp_history_occurrences(from);
    while (p->occurrences < all->len && ((const rgp_occurrence *)all->pdata[p->occurrences])->row <= row) {
        show_occurrence(p, all->pdata[p->occurrences++]);
    }
    rgp_history_row(p->shown, rgp_history_time_us(from, row), value, quality);
}

/* The rows for which the time has come. */
static void play_on(playback *p)
{
    const rgp_history *from = p->recording->history;
    const double now_us = time_now(p);
    for (uint64_t row = rgp_history_end(p->shown);
         row < rgp_history_end(from) && (double)rgp_history_time_us(from, row) <= now_us; row++) {
        show_row(p, row);
    }
}

/* ---- the door -------------------------------------------------------------------------------------- */

static const char *refuses(const rgp_door *door, rgp_command_kind what)
{
    const playback *p = (const playback *)door;
    return p->shown && what == RGP_COMMAND_PACE ? NULL : "this is a recording: it can be looked at, not changed";
}

static rgp_status ask(rgp_door *door, const rgp_command *command)
{
    playback *p = (playback *)door;
    set_clock(p, (double)command->value, p->since != 0);
    return RGP_OK;
}

static bool is_over(const rgp_door *door)
{
    const playback *p = (const playback *)door;
    return !p->shown || (rgp_recording_share(p->recording) >= 1.0 &&
                         rgp_history_end(p->shown) == rgp_history_end(p->recording->history));
}

static void pause_it(rgp_door *door)
{
    playback *p = (playback *)door;
    set_clock(p, p->pace, false);
}

static void unpause(rgp_door *door)
{
    playback *p = (playback *)door;
    set_clock(p, p->pace, true);
}

static rgp_history *look(rgp_door *door)
{
    playback *p = (playback *)door;
    rgp_recording_go_on(p->recording, BESIDE_US);
    if (p->shown) {
        play_on(p);
    }
    return p->shown ? p->shown : p->recording->history;
}

static void look_away(rgp_door *door)
{
    (void)door; /* its rows are put out within look(), by whoever looks */
}

static bool remark(rgp_door *door, const rgp_mark_change *change, GError **error)
{
    const playback *p = (const playback *)door;
    if (p->shown) {
        g_set_error_literal(error, G_IO_ERROR, G_IO_ERROR_NOT_SUPPORTED,
                            "it is played; without --pace its marks can be changed");
        return false;
    }
    if (rgp_recording_share(p->recording) < 1.0) {
        g_set_error_literal(error, G_IO_ERROR, G_IO_ERROR_BUSY, "it is still being read");
        return false;
    }
    return rgp_mark_change_one(p->recording, change, error);
}

static double share(const rgp_door *door)
{
    return rgp_recording_share(((const playback *)door)->recording);
}

static char *complaint(rgp_door *door)
{
    return rgp_recording_complaint(((const playback *)door)->recording);
}

static const char *hand_unit(const rgp_door *door, uint16_t sensor, const char **why)
{
    (void)door;
    (void)sensor;
    *why = "its readings come from a recording";
    return NULL;
}

static void stop_playback(rgp_door *door)
{
    pause_it(door);
}

static void end_playback(rgp_door *door, rgp_door_result *result)
{
    playback *p = (playback *)door;
    const rgp_history *h = p->shown ? p->shown : p->recording->history;
    const uint64_t rows = rgp_history_end(h);
    *result = (rgp_door_result){.ticks = rows,
                                .end_us = rows > 0 ? rgp_history_time_us(h, rows - 1) : 0,
                                .gaps = p->recording->gaps,
                                .record_failed = p->recording->torn_rows > 0,
                                .complaint = complaint(door)};
    rgp_history_free(p->shown);
    rgp_recording_free(p->recording);
    g_free(p);
}

static const rgp_door_table table = {.refuses = refuses,
                                     .ask = ask,
                                     .over = is_over,
                                     .pause = pause_it,
                                     .unpause = unpause,
                                     .look = look,
                                     .look_away = look_away,
                                     .remark = remark,
                                     .complaint = complaint,
                                     .share = share,
                                     .hand_unit = hand_unit,
                                     .stop = stop_playback,
                                     .end = end_playback};

rgp_door *playback_open(const rgp_door_setup *setup, GError **error)
{
    rgp_recording *r = rgp_recording_open(setup->recording, error);
    if (!r) {
        return NULL;
    }
    rgp_recording_go_on(r, AT_ONCE_US);
    playback *p = g_new0(playback, 1);
    p->recording = r;
    p->door = (rgp_door){.is = &table, .rig = r->rig, .ending = r->ending};
    if (setup->pace > 0.0) {
        p->shown = rgp_history_new(r->image, RGP_HISTORY_BYTES);
        p->time_us = r->rows > 0 ? (double)rgp_history_time_us(r->history, rgp_history_first(r->history)) : 0.0;
        set_clock(p, setup->pace, true);
    }
    return &p->door;
}
