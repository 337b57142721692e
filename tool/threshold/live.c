/* A live session from its door to its recording with the marks. */
#include "live_session.h"

#include "runtime/interrupt.h"
#include "runtime/recording.h"

#include <math.h>
#include <stdio.h>
#include <unistd.h>

static bool put_marks(const session *s)
{
    g_autoptr(GError) error = NULL;
    rgp_recording *r = rgp_recording_read(s->setup->record, &error);
    bool put = r != NULL;
    for (guint i = 0; put && i < s->stretch->len; i++) {
        const stretch *one = &g_array_index(s->stretch, stretch, i);
        const double last = (double)rgp_recording_time_us(r, r->rows - 1) / 1e6;
        const rgp_mark_change change = {.what = RGP_MARK_PUT,
                                        .name = one->idle ? s->setup->idle : s->setup->event,
                                        .from = one->from,
                                        .until = fmin(one->to, last)};
        put = rgp_mark_change_one(r, &change, &error);
    }
    rgp_recording_free(r);
    if (!put) {
        command_refuse(s->setup->self, "%s", error->message);
    }
    return put;
}

static bool open_door(session *s, rgp_door_setup *of)
{
    g_autoptr(GError) error = NULL;
    *of = (rgp_door_setup){.rig = s->setup->rig,
                           .seed = s->setup->seed,
                           .fast = s->setup->fast,
                           .stepped = true,
                           .hand_only = true,
                           .record = s->setup->record,
                           .overwrite = s->setup->overwrite,
                           .frame = live_frame_comes,
                           .self = s};
    s->door = rgp_door_open(of, &error);
    return s->door || (command_refuse(s->setup->self, "%s", error->message), false);
}

/* False when the port or the recording failed, which has been said; `ticks` are those that were recorded. */
static bool end_door(session *s, uint64_t *ticks)
{
    rgp_door_result r;
    rgp_door_end(s->door, &r);
    const bool sound = !r.record_failed && r.fault == RGP_OK;
    if (r.record_failed) {
        command_refuse(s->setup->self, "%s", r.complaint);
    }
    if (r.fault != RGP_OK) {
        command_refuse(s->setup->self, "the port is lost: %s", rgp_status_text(r.fault));
    }
    if (r.account) {
        puts(r.account);
    }
    *ticks = r.record_failed ? 0 : r.ticks;
    rgp_door_result_clear(&r);
    return sound;
}

/* Marks the recording, and tells of it. */
static bool keep(const session *s, uint64_t ticks)
{
    const bool any = ticks > 0 && s->stretch->len > 0, kept = !any || put_marks(s);
    fputs(interrupt_asked() ? "interrupted; " : "", stdout);
    if (ticks == 0) {
        puts("nothing was recorded");
    } else if (kept) {
        printf("recorded %s.csv, .events.jsonl and .json%s\n\n", s->setup->record, any ? ", and its marks" : "");
    }
    return kept;
}

bool live_take(const live_setup *setup, int *status)
{
    const int32_t slot = rgp_image_find(setup->rig->image, RGP_FIND_SLOT, setup->where->value);
    session s = {.setup = setup,
                 .slot = (uint32_t)slot,
                 .unit = setup->where->unit,
                 .value = (double)NAN,
                 .catcher = {.idle = g_array_new(FALSE, FALSE, sizeof(double)),
                             .above = !setup->written || setup->where->above,
                             .below = !setup->written || !setup->where->above},
                 .stretch = g_array_new(FALSE, FALSE, sizeof(stretch))};
    rgp_door_setup of;
    *status = EXIT_USAGE;
    bool taken = false;
    interrupt_catch();
    if (slot < 0) {
        command_refuse(setup->self, "--live looks at a value that has a name: put 'signal it = %s' into the file",
                       setup->where->value);
    } else if (open_door(&s, &of)) {
        const bool typed = !setup->script && isatty(STDIN_FILENO) && isatty(STDOUT_FILENO);
        const bool sound = typed ? live_talk(&s) : live_script(&s);
        uint64_t ticks;
        const bool ended = end_door(&s, &ticks), kept = keep(&s, ticks);
        taken = sound && ended && kept && s.done;
        *status = sound && ended && kept ? EXIT_DONE : EXIT_USAGE;
    }
    g_array_unref(s.catcher.idle);
    g_array_unref(s.stretch);
    return taken;
}
