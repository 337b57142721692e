/* rigpulse replay: a recorded run again, through the rig's present text. */
#include "tool/command.h"
#include "tool/rigfile.h"

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
#define VARY_MOST  50u
#define VARY_USUAL 7u

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
        printf("%s; what is driven is the same, so it is exact all the way\n", text);
    } else {
        printf("%s; exact until %.3f s: from then on something else is driven, and the readings no longer answer it\n",
               text, seconds_at(r, d->driven));
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
    const uint32_t exact = rgp_replay_exact(replay);
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

/* ---- a parameter varied ------------------------------------------------------------------------------ */

typedef struct variation {
    char *name;
    double from, to;
    uint32_t values;
    const char *unit;
} variation;

static char *params_of(const rgp_image_header *image)
{
    GString *all = g_string_new(NULL);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_PARAMS); i++) {
        g_string_append_printf(all, "%s%s", i > 0 ? ", " : "", rgp_image_text(image, RGP_NAME_SLOT, i, 0));
    }
    return g_string_free(all->len > 0 ? all : g_string_append(all, "none"), FALSE);
}

/* A bare number is in the parameter's unit. */
static bool parse_end(const char *text, gsize length, const char *unit, double *value, const char **why)
{
    g_autofree char *part = g_strstrip(g_strndup(text, length));
    const size_t end = strlen(part);
    const bool bare = end > 0 && (g_ascii_isdigit(part[end - 1]) || part[end - 1] == '.');
    g_autofree char *with = bare ? g_strdup_printf("%s %s", part, unit) : g_strdup(part);
    return rgp_quantity_parse(g_strchomp(with), unit, value, why);
}

/* "NAME=A..B[,N]", in the parameter's unit or with units. */
static bool parse_variation(const replaying *r, const char *text, variation *v)
{
    const char *equals = strchr(text, '='), *dots = equals ? strstr(equals, "..") : NULL;
    const char *comma = dots ? strchr(dots, ',') : NULL, *why = "it takes NAME=A..B, or NAME=A..B,N";
    v->name = g_strndup(text, equals ? (gsize)(equals - text) : 0);
    const int32_t param = rgp_image_find(r->rig->image, RGP_FIND_PARAM, v->name);
    if (!dots) {
        command_refuse(r->self, "--vary %s: %s", text, why);
        return false;
    }
    if (param < 0) {
        g_autofree char *params = params_of(r->rig->image);
        command_refuse(r->self, "--vary %s: this rig has no such parameter; it has %s", text, params);
        return false;
    }
    v->unit = rgp_image_unit(r->rig->image, RGP_NAME_SLOT, (uint32_t)param, 0);
    const rgp_image_param *is = (const rgp_image_param *)rgp_image_at(r->rig->image, RGP_SECTION_PARAMS) + param;
    const gint64 values = comma ? g_ascii_strtoll(comma + 1, NULL, 10) : (gint64)VARY_USUAL;
    const gsize high = comma ? (gsize)(comma - dots - 2) : strlen(dots + 2);
    if (!parse_end(equals + 1, (gsize)(dots - equals - 1), v->unit, &v->from, &why) ||
        !parse_end(dots + 2, high, v->unit, &v->to, &why)) {
        command_refuse(r->self, "--vary %s: %s", text, why);
        return false;
    }
    if (v->from < (double)is->low || v->to > (double)is->high) {
        command_refuse(r->self, "--vary %s: %s can be from %g to %g %s", text, v->name, (double)is->low,
                       (double)is->high, v->unit);
        return false;
    }
    if (values < 2 || values > (gint64)VARY_MOST || !(v->from < v->to)) {
        command_refuse(r->self, "--vary %s: A is less than B, and there are 2 to %u values", text, VARY_MOST);
        return false;
    }
    v->values = (uint32_t)values;
    return true;
}

/* How often each rule fires, by value and rule; false with what was wrong said. */
static bool count_firings(const replaying *r, const variation *v, double *value, uint32_t *firings)
{
    const uint32_t rules = rgp_image_count(r->rig->image, RGP_SECTION_RULES);
    for (uint32_t n = 0; n < v->values; n++) {
        g_autoptr(GError) error = NULL;
        value[n] = v->from + (v->to - v->from) * n / (v->values - 1);
        g_autofree char *set = g_strdup_printf("%s=%.9g %s", v->name, value[n], v->unit);
        g_autoptr(GPtrArray) all = g_ptr_array_new();
        for (char **one = r->set; one && *one; one++) {
            g_ptr_array_add(all, *one);
        }
        g_ptr_array_add(all, set);
        g_ptr_array_add(all, NULL);
        rgp_replay *replay = rgp_replay_new(r->rig, r->from, (char **)all->pdata, &error);
        if (!replay) {
            command_refuse(r->self, "%s", error->message);
            return false;
        }
        const rgp_frame *frame;
        while ((frame = rgp_replay_next(replay))) {
            const rgp_event *event = rgp_frame_event(rgp_replay_layout(replay), frame);
            for (uint32_t i = 0; i < frame->events; i++) {
                firings[n * rules + event[i].source] += event[i].kind == RGP_EVENT_FIRED;
            }
        }
        rgp_replay_free(replay);
    }
    return true;
}

static void print_counts(const replaying *r, const variation *v, const double *value, const uint32_t *firings)
{
    const rgp_image_header *image = r->rig->image;
    const uint32_t rules = rgp_image_count(image, RGP_SECTION_RULES);
    printf("firings in %u rows, %g to %g s, by %s; where something else is driven the readings no longer answer it\n",
           r->from->rows, seconds_at(r, 0), seconds_at(r, r->from->rows - 1), v->name);
    printf("%16s", v->name);
    for (uint32_t k = 0; k < rules; k++) {
        printf("  line %4u", rgp_image_name_of(image, RGP_NAME_RULE, k, 0)->line);
    }
    for (uint32_t n = 0; n < v->values; n++) {
        g_autofree char *told = g_strdup_printf("%.4g %s", value[n], v->unit);
        printf("\n%16s", told);
        for (uint32_t k = 0; k < rules; k++) {
            printf("  %9u", firings[n * rules + k]);
        }
    }
    puts("");
}

static void print_counts_json(const replaying *r, const variation *v, const double *value, const uint32_t *firings)
{
    const rgp_image_header *image = r->rig->image;
    const uint32_t rules = rgp_image_count(image, RGP_SECTION_RULES);
    json_t *lines = json_array(), *table = json_array();
    for (uint32_t k = 0; k < rules; k++) {
        json_array_append_new(lines, json_integer(rgp_image_name_of(image, RGP_NAME_RULE, k, 0)->line));
    }
    for (uint32_t n = 0; n < v->values; n++) {
        json_t *row = json_array();
        for (uint32_t k = 0; k < rules; k++) {
            json_array_append_new(row, json_integer(firings[n * rules + k]));
        }
        json_array_append_new(table, json_pack("{s:f, s:o}", "value", value[n], "firings", row));
    }
    command_print_json(
        json_pack("{s:s, s:s, s:o, s:o}", "param", v->name, "unit", v->unit, "lines", lines, "values", table));
}

static int vary(const replaying *r, const char *text, bool json)
{
    variation v = {0};
    const uint32_t rules = rgp_image_count(r->rig->image, RGP_SECTION_RULES);
    bool sound = parse_variation(r, text, &v);
    g_autofree char *name = v.name;
    if (sound && rules == 0) {
        command_refuse(r->self, "--vary %s: this rig has no rule that could fire", text);
        sound = false;
    }
    g_autofree double *value = g_new0(double, v.values + 1);
    g_autofree uint32_t *firings = g_new0(uint32_t, (gsize)v.values * rules + 1);
    if (!sound || !count_firings(r, &v, value, firings)) {
        return EXIT_USAGE;
    }
    (json ? print_counts_json : print_counts)(r, &v, value, firings);
    return EXIT_DONE;
}

/* ---- the command ------------------------------------------------------------------------------------ */

typedef struct replay_options {
    char **set;
    char *vary, *record;
    gboolean json, overwrite;
} replay_options;

static int replay_files(const command *self, const replay_options *o, const char *file, const char *recording)
{
    g_autoptr(GError) error = NULL;
    replaying r = {.self = self, .set = o->set, .record = o->record, .overwrite = o->overwrite};
    if (o->vary && o->record) {
        return command_refuse(self, "--vary runs it many times: --record records one");
    }
    r.rig = rigfile_load(self, file);
    if (!r.rig) {
        return EXIT_USAGE;
    }
    r.from = rgp_recording_read(recording, &error);
    const int status = !r.from   ? command_refuse(self, "%s", error->message)
                       : o->vary ? vary(&r, o->vary, o->json)
                                 : replay_once(&r, o->json);
    rgp_recording_free(r.from);
    rgp_rig_free(r.rig);
    return status;
}

static int run_replay(const command *self, int argc, char **argv)
{
    g_auto(GStrv) set = NULL;
    g_autofree char *varied = NULL, *record = NULL;
    replay_options o = {0};
    const GOptionEntry entries[] = {
        {"set", 0, 0, G_OPTION_ARG_STRING_ARRAY, &set, "begin with another value of a parameter", "NAME=VALUE"},
        {"vary", 0, 0, G_OPTION_ARG_STRING, &varied, "how often each rule fires for each of N values; 7 if not said",
         "NAME=A..B[,N]"},
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
    o.record = record;
    return replay_files(self, &o, argv[1], argv[2]);
}

const command command_replay = {"replay", "FILE RECORDING",
                                "runs a recording again through a rig file, and says what is different",
                                "rigpulse replay basin.rig basin.csv", run_replay};
