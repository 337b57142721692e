/* Values and firings of a rig along recordings, a replay each. */
#include "series.h"

#include "runtime/replay.h"

#include <math.h>
#include <string.h>

static bool holds_any(const float *value, uint32_t rows)
{
    for (uint32_t i = 0; i < rows; i++) {
        if (!isnan(value[i])) {
            return true;
        }
    }
    return false;
}

static void take_rows(rgp_replay *replay, const int32_t *slot, guint names, float **to)
{
    const rgp_frame_layout *layout = rgp_replay_layout(replay);
    const rgp_frame *frame;
    for (uint32_t row = 0; (frame = rgp_replay_next(replay)); row++) {
        const float *value = rgp_frame_value(layout, frame);
        const rgp_quality *quality = rgp_frame_quality(layout, frame);
        for (guint i = 0; i < names; i++) {
            to[i][row] = rgp_usable(quality[slot[i]]) ? value[slot[i]] : NAN;
        }
    }
}

static bool take_run(rgp_series *s, guint which, const rgp_rig *rig, const char *const *name, const int32_t *slot,
                     const rgp_recording *from, GError **error)
{
    float **to = s->value + (gsize)which * s->names;
    rgp_replay *replay = rgp_replay_new(rig, from, NULL, error);
    if (!replay) {
        return false;
    }
    for (guint i = 0; i < s->names; i++) {
        to[i] = g_malloc_n(from->rows + 1u, sizeof **to);
        for (uint32_t row = 0; row < from->rows; row++) {
            to[i][row] = NAN;
        }
    }
    take_rows(replay, slot, s->names, to);
    if (!*s->says && *rgp_replay_says(replay)) {
        g_free(s->says);
        s->says = g_strdup(rgp_replay_says(replay));
    }
    rgp_replay_free(replay);
    for (guint i = 0; i < s->names; i++) {
        if (!holds_any(to[i], from->rows)) {
            g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                        "%s holds no reading from which '%s' could be made; 'rigpulse list' tells what it holds",
                        from->name, name[i]);
            return false;
        }
    }
    return true;
}

rgp_series *rgp_series_of(const rgp_rig *rig, const char *const *name, guint names, rgp_recording *const *run,
                          guint runs, GError **error)
{
    rgp_series *s = g_malloc0(sizeof *s);
    g_autofree int32_t *slot = g_malloc_n(names, sizeof *slot);
    *s = (rgp_series){.runs = runs,
                      .names = names,
                      .value = g_malloc0_n((gsize)runs * names, sizeof *s->value),
                      .says = g_strdup("")};
    for (guint i = 0; i < names; i++) {
        slot[i] = rgp_image_find(rig->image, RGP_FIND_SLOT, name[i]);
    }
    for (guint i = 0; i < runs; i++) {
        if (!take_run(s, i, rig, name, slot, run[i], error)) {
            rgp_series_free(s);
            return NULL;
        }
    }
    return s;
}

/* The slot of that name, where the recording has all of it; -1: it has not. */
static int32_t recorded_slot(const rgp_rig *rig, const char *name, const rgp_recording *from)
{
    const bool same = !from->foreign && from->format > 1 && from->rig->length == rig->length &&
                      memcmp(from->rig->source, rig->source, rig->length) == 0;
    const int32_t slot = same ? rgp_image_find(from->image, RGP_FIND_SLOT, name) : -1;
    return slot >= 0 && from->has[slot] ? slot : -1;
}

rgp_series *rgp_series_recorded(const rgp_rig *rig, const char *name, rgp_recording *const *run, guint runs)
{
    for (guint i = 0; i < runs; i++) {
        if (recorded_slot(rig, name, run[i]) < 0) {
            return NULL;
        }
    }
    rgp_series *s = g_malloc0(sizeof *s);
    *s = (rgp_series){.runs = runs, .names = 1, .value = g_malloc0_n(runs, sizeof *s->value), .says = g_strdup("")};
    for (guint i = 0; i < runs; i++) {
        const uint32_t slot = (uint32_t)recorded_slot(rig, name, run[i]);
        s->value[i] = g_malloc_n(run[i]->rows + 1u, sizeof **s->value);
        for (uint32_t row = 0; row < run[i]->rows; row++) {
            const bool usable = rgp_usable(rgp_recording_quality(run[i], slot, row));
            s->value[i][row] = usable ? rgp_recording_value(run[i], slot, row) : NAN;
        }
    }
    return s;
}

void rgp_series_free(rgp_series *s)
{
    if (s) {
        for (guint i = 0; i < s->runs * s->names; i++) {
            g_free(s->value[i]);
        }
        g_free(s->value);
        g_free(s->says);
        g_free(s);
    }
}

rgp_values rgp_series_values(const rgp_series *s, rgp_recording *const *run, guint which, guint name)
{
    return (rgp_values){run[which], s->value[(gsize)which * s->names + name]};
}

/* ---- firings --------------------------------------------------------------------------------------- */

static void take_firings(rgp_replay *replay, void **to)
{
    const rgp_frame_layout *layout = rgp_replay_layout(replay);
    const rgp_frame *frame;
    rgp_replay_tell_all(replay);
    for (uint32_t row = 0; (frame = rgp_replay_next(replay)); row++) {
        const rgp_event *event = rgp_frame_event(layout, frame);
        for (uint32_t i = 0; i < frame->events; i++) {
            if (event[i].kind == RGP_EVENT_FIRED) {
                g_array_append_val((GArray *)to[event[i].source], row);
            }
        }
    }
}

GPtrArray *rgp_series_firings(const rgp_rig *rig, rgp_recording *const *run, guint runs, GError **error)
{
    const uint32_t rules = rgp_image_count(rig->image, RGP_SECTION_RULES);
    GPtrArray *all = g_ptr_array_new_with_free_func((GDestroyNotify)g_array_unref);
    for (guint i = 0; i < runs; i++) {
        rgp_replay *replay = rgp_replay_new(rig, run[i], NULL, error);
        if (!replay) {
            g_ptr_array_unref(all);
            return NULL;
        }
        for (uint32_t k = 0; k < rules; k++) {
            g_ptr_array_add(all, g_array_new(FALSE, FALSE, sizeof(uint32_t)));
        }
        take_firings(replay, all->pdata + (gsize)i * rules);
        rgp_replay_free(replay);
    }
    return all;
}
