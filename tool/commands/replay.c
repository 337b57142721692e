/* rigpulse replay: a recorded run again, through the rig's present text. */
#include "tool/command.h"
#include "tool/reading.h"
#include "tool/picture.h"
#include "tool/rigfile.h"
#include "vary.h"

#include "analysis/differences.h"
#include "explain/describe.h"
#include "runtime/recorder.h"
#include "runtime/replay.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

#define NEAR_S     1.0 /* so far apart two events of one rule can be one that has shifted */
#define NEAR_TICKS 10.0
#define TOLD_MOST  6u /* pairs of a rule that are told one by one */

typedef struct replaying {
    const command *self;
    rgp_rig *rig;
    rgp_recording *from;
    char **set; /* NAME=VALUE; NULL: none */
    const char *record;
    bool overwrite;
} replaying;

/* ---- running ---------------------------------------------------------------------------------------- */

/* All rows into a history, and into a recording where one is asked for. NULL with *error. */
static rgp_history *run_through(const replaying *r, rgp_replay *replay, GError **error)
{
    rgp_history *h = rgp_history_new(r->rig->image, 0);
    rgp_recorder_run run;
    rgp_replay_run(replay, &run);
    rgp_recorder *recorder = r->record ? rgp_recorder_open(r->record, r->overwrite, r->rig, &run, error) : NULL;
    bool sound = recorder || !r->record;
    const rgp_frame *frame;
    while (sound && (frame = rgp_replay_next(replay))) {
        rgp_history_frame(h, rgp_replay_layout(replay), frame);
        sound = !recorder || rgp_recorder_frame(recorder, frame, error);
    }
    if (recorder && !rgp_recorder_close(recorder, r->from->gaps, "replayed", sound ? error : NULL)) {
        sound = false;
    }
    if (!sound) {
        rgp_history_free(h);
    }
    return sound ? h : NULL;
}

static double near_s(const replaying *r)
{
    return fmax(NEAR_S, NEAR_TICKS * ((const rgp_image_header *)r->rig->image)->tick_us / 1e6);
}

static double seconds_at(const replaying *r, uint32_t row)
{
    return (double)rgp_recording_time_us(r->from, row) / 1e6;
}

/* The first row that need not be what the rig would do; the number of rows: none. */
static uint32_t exact_row(const replaying *r, const rgp_differences *d, const rgp_replay *replay)
{
    return MIN(MIN(d->driven, rgp_replay_exact(replay)), r->from->rows);
}

/* ---- for a person ----------------------------------------------------------------------------------- */

static void print_head(const replaying *r, const rgp_differences *d, const rgp_replay *replay)
{
    printf("%s: %u rows, %g to %g s, through %s\n", r->from->name, d->rows, seconds_at(r, 0),
           seconds_at(r, r->from->rows - 1), r->rig->file);
    if (*rgp_replay_says(replay)) {
        puts(rgp_replay_says(replay));
    }
    const char *text =
        d->same_text ? "the text is that of the recording" : "the text is another one than the recording's";
    const char *rig = rgp_image_text(r->rig->image, RGP_NAME_RIG, 0, 0),
               *was = rgp_image_text(r->from->image, RGP_NAME_RIG, 0, 0);
    if (strcmp(rig, was) != 0) {
        printf("this is a recording of rig %s, and the file is rig %s\n", was, rig);
    }
    if (d->none) {
        printf("%s; every value, quality%s and event is the same, bit for bit\n", text, d->same_text ? ", owner" : "");
    } else if (d->actuators == 0) {
        printf("%s; they have no actuator in common, so the readings answer nothing that this rig drives\n", text);
    } else if (d->driven == RGP_NO_ROW) {
        printf("%s; what is driven is the same%s\n", text,
               rgp_replay_exact(replay) == r->from->rows ? ", so it is exact all the way" : "");
    } else {
        const bool exact = exact_row(r, d, replay) == d->driven;
        printf("%s; %s %.3f s%s on something else is driven, and the readings no longer answer it\n", text,
               exact ? "exact until" : "from", seconds_at(r, d->driven), exact ? ": from then" : "");
    }
}

static void print_pair(const replaying *r, const rgp_event_pair *p)
{
    const rgp_occurrence *told = p->event_now ? p->event_now : p->event_then;
    if (p->now == RGP_NO_ROW) {
        printf("    %10.3f s  missing now", seconds_at(r, p->then));
    } else if (p->then == RGP_NO_ROW) {
        printf("    %10.3f s  new", seconds_at(r, p->now));
    } else {
        const double shift = seconds_at(r, p->now) - seconds_at(r, p->then);
        printf("    %10.3f s  %.3f s %s", seconds_at(r, p->now), fabs(shift), shift < 0.0 ? "earlier" : "later");
    }
    printf(told->why ? "%s %s\n" : "\n", p->now == RGP_NO_ROW ? "; then because" : ", because", told->why);
}

static void print_event(const replaying *r, const rgp_event_difference *d)
{
    const guint then = d->same + d->shifted + d->missing, now = d->same + d->shifted + d->added;
    if (d->line > 0) {
        printf("  line %u, ", d->line);
    } else {
        printf("  ");
    }
    printf("%s %s: then %u, now %u; %u the same", d->of, rgp_event_word(d->kind), then, now, d->same);
    if (d->shifted > 0) {
        printf(", %u shifted (%.3f to %.3f s)", d->shifted, d->earliest, d->latest);
    }
    printf(d->added > 0 ? ", %u new" : "", d->added);
    printf(d->missing > 0 ? ", %u missing\n" : "\n", d->missing);
    uint32_t told = 0, left = 0;
    for (guint i = 0; i < d->pair->len; i++) {
        const rgp_event_pair *p = &g_array_index(d->pair, rgp_event_pair, i);
        if (p->then == p->now) {
            continue;
        }
        if (told < TOLD_MOST) {
            print_pair(r, p);
            told++;
        } else {
            left++;
        }
    }
    printf(left > 0 ? "    and %u more; --json tells all\n" : "", left);
}

static void print_signals(const replaying *r, const rgp_differences *d)
{
    for (guint i = 0; i < d->signal->len; i++) {
        const rgp_signal_difference *s = &g_array_index(d->signal, rgp_signal_difference, i);
        printf("  %s differs in %u rows, from %.3f s on", s->name, s->rows, seconds_at(r, s->first));
        if (s->most_at == RGP_NO_ROW) {
            puts(", in how far it can be trusted");
        } else if (rgp_image_name_of(r->rig->image, RGP_NAME_PART, s->slot, 0)) {
            puts("");
        } else {
            printf(", at most by %.4g %s at %.3f s\n", s->most, s->unit, seconds_at(r, s->most_at));
        }
    }
    printf(d->owners > 0 ? "  actuators have other owners in %u rows\n" : "", d->owners);
    for (guint i = 0; i < d->absent->len; i++) {
        printf("%s%s", i == 0 ? "  in the recording, and not in this rig: " : ", ", (const char *)d->absent->pdata[i]);
    }
    fputs(d->absent->len > 0 ? "\n" : "", stdout);
}

/* The end of an action tells nothing that its beginning has not. */
static bool is_told(const rgp_event_difference *d)
{
    return d->kind == RGP_EVENT_FIRED || (d->kind != RGP_EVENT_ENDED && d->shifted + d->added + d->missing > 0);
}

static void print_all(const replaying *r, const rgp_differences *d, const rgp_replay *replay)
{
    print_head(r, d, replay);
    for (guint i = 0; i < d->event->len; i++) {
        if (is_told(d->event->pdata[i])) {
            print_event(r, d->event->pdata[i]);
        }
    }
    print_signals(r, d);
}

/* ---- for a program ---------------------------------------------------------------------------------- */

static json_t *time_or_null(const replaying *r, uint32_t row)
{
    return row == RGP_NO_ROW ? json_null() : json_real(seconds_at(r, row));
}

static json_t *event_as_json(const replaying *r, const rgp_event_difference *d)
{
    json_t *pairs = json_array();
    for (guint i = 0; i < d->pair->len; i++) {
        const rgp_event_pair *p = &g_array_index(d->pair, rgp_event_pair, i);
        json_array_append_new(pairs,
                              json_pack("{s:o, s:o, s:s?, s:s?}", "then", time_or_null(r, p->then), "now",
                                        time_or_null(r, p->now), "why_then", p->event_then ? p->event_then->why : NULL,
                                        "why_now", p->event_now ? p->event_now->why : NULL));
    }
    return json_pack("{s:s, s:s, s:i, s:i, s:i, s:i, s:i, s:o}", "event", rgp_event_word(d->kind), "of", d->of, "line",
                     (int)d->line, "same", (int)d->same, "shifted", (int)d->shifted, "added", (int)d->added, "missing",
                     (int)d->missing, "pairs", pairs);
}

static void print_json(const replaying *r, const rgp_differences *d, const rgp_replay *replay)
{
    json_t *events = json_array(), *signals = json_array(), *absent = json_array();
    for (guint i = 0; i < d->event->len; i++) {
        json_array_append_new(events, event_as_json(r, d->event->pdata[i]));
    }
    for (guint i = 0; i < d->signal->len; i++) {
        const rgp_signal_difference *s = &g_array_index(d->signal, rgp_signal_difference, i);
        json_array_append_new(signals, json_pack("{s:s, s:s, s:i, s:f, s:f, s:o}", "name", s->name, "unit", s->unit,
                                                 "rows", (int)s->rows, "first", seconds_at(r, s->first), "most",
                                                 s->most, "most_at", time_or_null(r, s->most_at)));
    }
    for (guint i = 0; i < d->absent->len; i++) {
        json_array_append_new(absent, json_string(d->absent->pdata[i]));
    }
    const uint32_t exact = exact_row(r, d, replay);
    command_print_json(json_pack(
        "{s:s, s:i, s:b, s:b, s:o, s:o, s:s, s:i, s:o, s:o, s:o}", "recording", r->from->name, "rows", (int)d->rows,
        "same_text", d->same_text, "same", d->none, "driven_otherwise", time_or_null(r, d->driven), "exact_until",
        exact < r->from->rows ? json_real(seconds_at(r, exact)) : json_null(), "says", rgp_replay_says(replay),
        "owner_rows", (int)d->owners, "events", events, "signals", signals, "absent", absent));
}

static int replay_once(const replaying *r, bool json)
{
    g_autoptr(GError) error = NULL;
    rgp_replay *replay = rgp_replay_new(r->rig, r->from, r->set, &error);
    rgp_history *now = replay ? run_through(r, replay, &error) : NULL;
    int status = EXIT_USAGE;
    if (now) {
        rgp_differences *d = rgp_differences_of(r->from, r->rig, now, near_s(r));
        if (json) {
            print_json(r, d, replay);
        } else {
            print_all(r, d, replay);
        }
        status = d->none ? EXIT_DONE : EXIT_FAULT;
        rgp_differences_free(d);
        rgp_history_free(now);
    } else {
        command_refuse(r->self, "%s", error->message);
    }
    if (replay) {
        rgp_replay_free(replay);
    }
    return status;
}

/* ---- the command ------------------------------------------------------------------------------------ */

typedef struct replay_options {
    char **set;
    char *vary, *picture, *record;
    gboolean json, overwrite;
} replay_options;

static int replay_files(const command *self, const replay_options *o, const char *file, const char *recording)
{
    g_autoptr(GError) error = NULL;
    replaying r = {.self = self, .set = o->set, .record = o->record, .overwrite = o->overwrite};
    if (o->vary && o->record) {
        return command_refuse(self, "--vary runs it many times: --record records one");
    }
    if (o->overwrite && !o->record) {
        return command_refuse(self, "--overwrite goes with --record NAME");
    }
    if (o->picture && !o->vary) {
        return command_refuse(self, "--picture draws what --vary counts; 'rigpulse plot' draws a recording");
    }
    if (o->picture && !picture_is_named(o->picture)) {
        return command_refuse(self, "--picture %s: the picture's name must end with .png or .svg", o->picture);
    }
    r.rig = rigfile_load(self, file);
    if (!r.rig) {
        return EXIT_USAGE;
    }
    r.from = reading_whole(recording, &error);
    const variation_ask ask = {self, r.rig, r.from, o->set, o->vary, o->picture, o->json};
    const int status = !r.from   ? command_refuse(self, "%s", error->message)
                       : o->vary ? vary_parameter(&ask)
                                 : replay_once(&r, o->json);
    rgp_recording_free(r.from);
    rgp_rig_free(r.rig);
    return status;
}

static int run_replay(const command *self, int argc, char **argv)
{
    g_auto(GStrv) set = NULL;
    g_autofree char *varied = NULL, *picture = NULL, *record = NULL;
    replay_options o = {0};
    const GOptionEntry entries[] = {
        {"set", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &set, "begin with another value of a parameter", "NAME=VALUE"},
        {"vary", 0, 0, G_OPTION_ARG_FILENAME, &varied, "how often each rule fires for each of N values; 7 if not said",
         "NAME=A..B[,N]"},
        {"picture", 0, 0, G_OPTION_ARG_FILENAME, &picture, "with --vary: draw it, .png or .svg", "FILE"},
        {"record", 0, 0, G_OPTION_ARG_FILENAME, &record, "record the replay", "NAME"},
        {"overwrite", 0, 0, G_OPTION_ARG_NONE, &o.overwrite, "over an older recording of that name", NULL},
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 2, 2, &status)) {
        return status;
    }
    o.set = set;
    o.vary = varied;
    o.picture = picture;
    o.record = record;
    return replay_files(self, &o, argv[1], argv[2]);
}

const command command_replay = {"replay", "FILE RECORDING",
                                "runs a recording again through a rig file, and says what is different",
                                "rigpulse replay basin.rig basin.csv", run_replay};
