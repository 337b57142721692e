/* A replay of a recording's own text, traced. */
#include "explanation.h"

#include "places.h"

#include "runtime/replay.h"

#define PLACES       64u
#define STRIDE_LEAST 500u

struct rgp_explanation {
    rgp_rig *rig;
    rgp_replay *replay;
    rgp_trace *trace;
    rgp_why why;
    uint32_t next;   /* row */
    uint32_t stride; /* rows from one kept place to the next */
    GArray *kept;    /* of rgp_place_kept */
    const rgp_recording *from;
    guint loaded; /* of those, from the user's cache */
};

static void take_places(rgp_explanation *e)
{
    g_autofree char *file = rgp_places_file(e->from, e->rig->image);
    if (file) {
        rgp_places_load(file, e->replay, e->rig->image, e->kept);
    }
    e->loaded = e->kept->len;
}

static void leave_places(const rgp_explanation *e)
{
    g_autofree char *file = e->kept->len > e->loaded ? rgp_places_file(e->from, e->rig->image) : NULL;
    if (file) {
        rgp_places_save(file, e->replay, e->kept);
    }
}

rgp_explanation *rgp_explanation_new(const rgp_recording *from, GError **error)
{
    if (from->foreign) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "%s: %s; what it did cannot be run again", from->name,
                    from->foreign);
        return NULL;
    }
    rgp_rig *rig = rgp_rig_compile_traced(from->rig->file, from->rig->source, from->rig->length, NULL);
    if (!rig || !rig->image) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "%s: %s", from->name,
                    rig ? rgp_rig_report(rig) : "memory has run out");
        rgp_rig_free(rig);
        return NULL;
    }
    rgp_explanation *e = g_new0(rgp_explanation, 1);
    e->rig = rig;
    e->replay = rgp_replay_new(rig, from, NULL, error);
    e->trace = rgp_trace_new(rig->image);
    e->stride = MAX(STRIDE_LEAST, from->rows / PLACES);
    e->from = from;
    e->kept = rgp_places_new();
    rgp_replay_tell_all(e->replay);
    take_places(e);
    e->why = (rgp_why){
        .rig = rig,
        .engine = rgp_replay_engine(e->replay),
        .layout = rgp_replay_layout(e->replay),
        .trace = e->trace,
    };
    return e;
}

void rgp_explanation_free(rgp_explanation *e)
{
    if (e) {
        leave_places(e);
        g_array_unref(e->kept);
        rgp_replay_free(e->replay);
        rgp_trace_free(e->trace);
        rgp_rig_free(e->rig);
        g_free(e);
    }
}

/* Behind the last one that is kept. */
static void keep_place(rgp_explanation *e)
{
    const guint kept = e->kept->len;
    if (e->next % e->stride == 0 && (kept == 0 || g_array_index(e->kept, rgp_place_kept, kept - 1).row < e->next)) {
        const rgp_place_kept here = {e->next, rgp_replay_place_of(e->replay), rgp_trace_copy(e->trace)};
        g_array_append_val(e->kept, here);
    }
}

const rgp_why *rgp_explanation_next(rgp_explanation *e)
{
    keep_place(e);
    e->why.frame = rgp_replay_next(e->replay);
    if (!e->why.frame) {
        return NULL;
    }
    rgp_trace_frame(e->trace, e->why.layout, e->why.frame);
    e->next++;
    return &e->why;
}

/* From a place that is kept, when that is nearer than where it is. */
static void go_from(rgp_explanation *e, const rgp_place_kept *from, uint32_t row)
{
    if (from && (row < e->next || from->row > e->next)) {
        rgp_replay_go_to(e->replay, from->replay);
        rgp_trace_put_back(e->trace, from->trace);
        e->next = from->row;
    }
}

void rgp_explanation_skip_to(rgp_explanation *e, uint32_t row)
{
    const rgp_place_kept *from = NULL;
    for (guint i = 0; i < e->kept->len && g_array_index(e->kept, rgp_place_kept, i).row <= row; i++) {
        from = &g_array_index(e->kept, rgp_place_kept, i);
    }
    go_from(e, from, row);
}

void rgp_explanation_skip_to_firing(rgp_explanation *e, uint32_t rule, uint32_t number)
{
    const rgp_place_kept *from = NULL;
    for (guint i = 0; i < e->kept->len && g_array_index(e->kept, rgp_place_kept, i).trace->rule[rule].fired < number;
         i++) {
        from = &g_array_index(e->kept, rgp_place_kept, i);
    }
    go_from(e, from, from ? from->row : 0);
}

const rgp_why *rgp_explanation_at(rgp_explanation *e, uint32_t row)
{
    rgp_explanation_skip_to(e, row);
    while (e->next <= row && rgp_explanation_next(e)) {
    }
    return e->next == row + 1 ? &e->why : NULL;
}

uint32_t rgp_explanation_places(const rgp_explanation *e)
{
    return e->kept->len;
}

uint32_t rgp_explanation_row(const rgp_explanation *e)
{
    return e->next - 1;
}

const rgp_rig *rgp_explanation_rig(const rgp_explanation *e)
{
    return e->rig;
}

const char *rgp_explanation_says(const rgp_explanation *e)
{
    return rgp_replay_says(e->replay);
}
