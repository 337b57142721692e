/* A replay of a recording's own text, traced. */
#include "explanation.h"

#include "runtime/replay.h"

struct rgp_explanation {
    rgp_rig *rig;
    rgp_replay *replay;
    rgp_trace *trace;
    rgp_why why;
    uint32_t next; /* row */
};

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
    rgp_replay_tell_all(e->replay);
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
        rgp_replay_free(e->replay);
        rgp_trace_free(e->trace);
        rgp_rig_free(e->rig);
        g_free(e);
    }
}

const rgp_why *rgp_explanation_next(rgp_explanation *e)
{
    e->why.frame = rgp_replay_next(e->replay);
    if (!e->why.frame) {
        return NULL;
    }
    rgp_trace_frame(e->trace, e->why.layout, e->why.frame);
    e->next++;
    return &e->why;
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
