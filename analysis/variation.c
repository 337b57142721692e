/* A parameter varied over a recorded run, a replay a value. */
#include "variation.h"

#include "runtime/replay.h"

/* An actuator that the rig and the recording have. */
typedef struct slot_pair {
    uint32_t now, then;
} slot_pair;

typedef struct varying {
    rgp_variation *to;
    const rgp_recording *from;
    GArray *pair; /* slot_pair */
} varying;

static GArray *pairs_of(const rgp_image_header *image, const rgp_recording *from)
{
    GArray *pairs = g_array_new(FALSE, FALSE, sizeof(slot_pair));
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_ACTUATORS); i++) {
        const uint32_t slot = rgp_image_actuator_slot(image, i);
        const int32_t then =
            rgp_image_find(from->image, RGP_FIND_ACTUATOR, rgp_image_text(image, RGP_NAME_SLOT, slot, 0));
        if (then >= 0) {
            const slot_pair pair = {slot, rgp_image_actuator_slot(from->image, (uint32_t)then)};
            if (from->has[pair.then]) {
                g_array_append_val(pairs, pair);
            }
        }
    }
    return pairs;
}

static bool drives_as_then(const varying *v, const rgp_frame_layout *layout, const rgp_frame *frame, uint32_t row)
{
    bool same = true;
    const float *value = rgp_frame_value(layout, frame);
    const rgp_quality *quality = rgp_frame_quality(layout, frame);
    for (guint i = 0; i < v->pair->len; i++) {
        const slot_pair pair = g_array_index(v->pair, slot_pair, i);
        same &= value[pair.now] == rgp_recording_value(v->from, pair.then, row) &&
                quality[pair.now] == rgp_recording_quality(v->from, pair.then, row);
    }
    return same;
}

/* One replay. */
static void count(const varying *v, rgp_replay *replay, uint32_t n)
{
    const rgp_frame_layout *layout = rgp_replay_layout(replay);
    const rgp_frame *frame;
    for (uint32_t row = 0; (frame = rgp_replay_next(replay)); row++) {
        const rgp_event *event = rgp_frame_event(layout, frame);
        for (uint32_t i = 0; i < frame->events; i++) {
            if (event[i].kind == RGP_EVENT_FIRED) {
                v->to->firings[n * v->to->rules + event[i].source]++;
            }
        }
        if (row < v->to->exact[n] && !drives_as_then(v, layout, frame, row)) {
            v->to->exact[n] = row;
        }
    }
}

static bool run_with(const varying *v, char **set, uint32_t n, GError **error)
{
    const rgp_image_header *image = v->to->rig->image;
    g_autoptr(GPtrArray) all = g_ptr_array_new();
    for (char **one = set; one && *one; one++) {
        g_ptr_array_add(all, *one);
    }
    g_autofree char *own = g_strdup_printf("%s=%.9g %s", rgp_image_text(image, RGP_NAME_SLOT, v->to->param, 0),
                                           v->to->value[n], rgp_image_unit(image, RGP_NAME_SLOT, v->to->param, 0));
    g_ptr_array_add(all, own);
    g_ptr_array_add(all, NULL);
    rgp_replay *replay = rgp_replay_new(v->to->rig, v->from, (char **)all->pdata, error);
    if (replay) {
        count(v, replay, n);
        v->to->exact[n] = MIN(v->to->exact[n], rgp_replay_exact(replay));
        g_free(v->to->says);
        v->to->says = g_strdup(rgp_replay_says(replay));
        rgp_replay_free(replay);
    }
    return replay != NULL;
}

static rgp_variation *new_variation(const rgp_variation_ask *ask)
{
    const uint32_t rules = rgp_image_count(ask->rig->image, RGP_SECTION_RULES);
    rgp_variation *to = g_new0(rgp_variation, 1);
    *to = (rgp_variation){.rig = ask->rig,
                          .param = ask->param,
                          .values = ask->values,
                          .rules = rules,
                          .value = g_new0(double, ask->values),
                          .firings = g_new0(uint32_t, (gsize)ask->values * rules + 1),
                          .exact = g_new0(uint32_t, ask->values)};
    return to;
}

rgp_variation *rgp_variation_of(const rgp_variation_ask *ask, GError **error)
{
    rgp_variation *to = new_variation(ask);
    const varying v = {to, ask->from, pairs_of(ask->rig->image, ask->from)};
    bool sound = true;
    for (uint32_t n = 0; n < ask->values && sound; n++) {
        to->value[n] = ask->low + (ask->high - ask->low) * n / (ask->values - 1);
        to->exact[n] = ask->from->rows;
        sound = run_with(&v, ask->set, n, error);
    }
    g_array_unref(v.pair);
    if (!sound) {
        rgp_variation_free(to);
    }
    return sound ? to : NULL;
}

void rgp_variation_free(rgp_variation *variation)
{
    g_free(variation->value);
    g_free(variation->firings);
    g_free(variation->exact);
    g_free(variation->says);
    g_free(variation);
}
