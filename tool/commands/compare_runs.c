/* rigpulse compare: the runs, read or simulated, and the figures of each. */
#include "compare.h"

#include "analysis/simulated_runs.h"
#include "files/files.h"
#include "runtime/interrupt.h"
#include "runtime/moment.h"
#include "runtime/ports.h"
#include "tool/progress.h"
#include "tool/reading.h"
#include "tool/rigfile.h"

#include <gio/gio.h>
#include <stdio.h>
#include <string.h>

#define SEEDS      12u /* enough to tell up to a hundred questions from chance */
#define SEEDS_MOST 1000u
#define LONGEST_S  1e7

static void add_kind(compare_what *w, char *name)
{
    const rgp_run_kind kind = {.name = name, .run = g_ptr_array_new_with_free_func((GDestroyNotify)g_array_unref)};
    g_array_append_val(w->kind, kind);
}

static rgp_run_kind *kind_at(const compare_what *w, guint i)
{
    return &g_array_index(w->kind, rgp_run_kind, i);
}

/* A figure that is asked for by its name may be one of a signal. */
static bool wants_all(const compare_what *w)
{
    return w->options->all || w->options->figure;
}

/* ---- where to look --------------------------------------------------------------------------------- */

/* The time behind an option. False when it is none, which has been said. */
static bool read_time(const compare_what *w, const char *option, const char *text, double *seconds)
{
    const char *why;
    if (!rgp_quantity_parse(text, "s", seconds, &why)) {
        command_refuse(w->self, "%s %s: %s; write a time, for example %s 25min", option, text, why, option);
        return false;
    }
    if (!(*seconds > 0.0 && *seconds <= LONGEST_S)) {
        command_refuse(w->self, "%s %s: it must be above 0 and at most %g s", option, text, LONGEST_S);
        return false;
    }
    return true;
}

/* The moment of --from in one run. */
static bool find_moment(const compare_what *w, const rgp_history *h, const char *run, double *seconds)
{
    const char *text = w->options->from;
    *seconds = (double)rgp_history_time_us(h, rgp_history_first(h)) / 1e6;
    if (text && !rgp_moment_of(h, text, seconds)) {
        command_refuse(w->self, "--from %s: it is no time, and %s has no such mark and no such line that fired", text,
                       run);
        return false;
    }
    return true;
}

static double end_of(const rgp_history *h)
{
    return (double)rgp_history_time_us(h, rgp_history_end(h) - 1) / 1e6;
}

/* The names of what is drawn: those that were asked for, else those of the first run. */
static void name_drawn(compare_what *w, const rgp_image_header *image)
{
    if (w->options->picture && !w->drawn) {
        w->drawn = w->options->draw ? g_strdupv(w->options->draw) : rgp_course_names(image);
    }
}

static void take_courses(rgp_history *h, char **drawn, double from, double to, GPtrArray *courses)
{
    for (char **name = drawn; name && *name; name++) {
        g_ptr_array_add(courses, rgp_course_of(h, *name, (uint64_t)(from * 1e6), (uint64_t)(to * 1e6) + 1));
    }
}

/* ---- recordings ------------------------------------------------------------------------------------ */

static bool same_kind(const rgp_recording *a, const rgp_recording *b)
{
    const uint32_t params = rgp_image_count(a->image, RGP_SECTION_PARAMS);
    if (strcmp(a->rig->source, b->rig->source) != 0 || !a->param || !b->param) {
        return strcmp(a->rig->source, b->rig->source) == 0 && !a->param && !b->param;
    }
    return memcmp(a->param, b->param, params * sizeof *a->param) == 0;
}

typedef struct recorded {
    rgp_recording *recording;
    guint kind;
    double from;
} recorded;

static void free_recorded(void *self)
{
    rgp_recording_free(((recorded *)self)->recording);
}

/* Runs of the same text with the same parameters are of one kind. */
static void find_kind(compare_what *w, const GArray *all, recorded *is)
{
    for (guint i = 0; i < all->len; i++) {
        const recorded *other = &g_array_index(all, recorded, i);
        if (same_kind(other->recording, is->recording)) {
            is->kind = other->kind;
            return;
        }
    }
    is->kind = w->kind->len;
    add_kind(w, g_strdup(is->recording->name));
}

static void note(const compare_what *w, const rgp_recording *r)
{
    g_autofree char *complaint = rgp_recording_complaint(r);
    if (complaint) {
        g_string_append_printf(w->says, "%s: %s\n", r->name, complaint);
    }
    if (strcmp(r->ending, "complete") != 0) {
        g_string_append_printf(w->says, "%s: %s\n", r->name, r->ending);
    }
}

/* Runs of other ticks are compared, but a tick twice as long has fewer readings to do it with. */
static void note_tick(const compare_what *w, const rgp_recording *first, const rgp_recording *r)
{
    if (first->image->tick_us != r->image->tick_us) {
        g_string_append_printf(w->says, "%s has a tick of %g ms, %s one of %g ms\n", first->name,
                               first->image->tick_us / 1e3, r->name, r->image->tick_us / 1e3);
    }
}

static bool read_all(compare_what *w, char **names, GArray *all)
{
    for (char **name = names; *name; name++) {
        g_autoptr(GError) error = NULL;
        recorded is = {.recording = reading_whole(*name, &error)};
        if (!is.recording) {
            command_refuse(w->self, "%s", error->message);
            return false;
        }
        if (is.recording->rows == 0) {
            command_refuse(w->self, "%s: there is no row in it", *name);
            rgp_recording_free(is.recording);
            return false;
        }
        find_kind(w, all, &is);
        note(w, is.recording);
        g_array_append_val(all, is);
        note_tick(w, g_array_index(all, recorded, 0).recording, is.recording);
        if (!find_moment(w, is.recording->history, *name, &g_array_index(all, recorded, all->len - 1).from)) {
            return false;
        }
    }
    return true;
}

/* As long as the shortest of them, from each one's moment on. */
static bool find_length(const compare_what *w, const GArray *all, double *length)
{
    double shortest = G_MAXDOUBLE, longest = 0.0;
    for (guint i = 0; i < all->len; i++) {
        const recorded *is = &g_array_index(all, recorded, i);
        const double left = end_of(is->recording->history) - is->from;
        shortest = MIN(shortest, left);
        longest = MAX(longest, left);
    }
    *length = shortest;
    if (w->options->over && !read_time(w, "--over", w->options->over, length)) {
        return false;
    }
    if (shortest <= 0.0 || *length > shortest * (1.0 + 1e-9)) {
        command_refuse(w->self, "the shortest run has only %g s behind that moment", MAX(shortest, 0.0));
        return false;
    }
    if (!w->options->over && longest > shortest * 1.001) {
        g_string_append_printf(w->says, "the longest run has %g s, the shortest %g s: so much is looked at\n", longest,
                               shortest);
    }
    return true;
}

bool compare_recordings(compare_what *w, char **names)
{
    GArray *all = g_array_new(FALSE, TRUE, sizeof(recorded));
    double length = 0.0;
    g_array_set_clear_func(all, free_recorded);
    bool sound = read_all(w, names, all) && find_length(w, all, &length);
    for (guint i = 0; i < all->len && sound; i++) {
        const recorded *is = &g_array_index(all, recorded, i);
        name_drawn(w, is->recording->image);
        if (kind_at(w, is->kind)->run->len == 0) { /* kinds come in their order */
            take_courses(is->recording->history, w->drawn, is->from, is->from + length, w->course);
        }
        GArray *scores = rgp_scores_of(is->recording->history, (uint64_t)(is->from * 1e6),
                                       (uint64_t)((is->from + length) * 1e6) + 1, wants_all(w));
        g_ptr_array_add(kind_at(w, is->kind)->run, scores);
        w->from_s = i == 0 ? is->from : w->from_s;
        w->to_s = i == 0 ? is->from + length : w->to_s;
    }
    g_array_unref(all);
    if (sound && w->kind->len < 2) {
        command_refuse(w->self, "all of them are runs of the same text with the same parameters: there is nothing to "
                                "compare them with");
        sound = false;
    }
    return sound;
}

/* ---- simulated runs -------------------------------------------------------------------------------- */

/* A kind as it was asked for: a file, and values behind it. */
typedef struct asked {
    char *path, *text;
    char **set;
} asked;

static void free_asked(void *self)
{
    asked *a = self;
    g_free(a->path);
    g_free(a->text);
    g_strfreev(a->set);
}

typedef struct simulating {
    compare_what *w;
    double from, to;
    uint32_t runs;
} simulating;

typedef struct one_run {
    simulating *s;
    GArray *scores;    /* NULL: it was not done */
    GPtrArray *course; /* of the first seed, where something is drawn; else NULL */
    bool missed;       /* there was no such mark in it */
} one_run;

/* In the thread of the run: marks are looked for afterwards only where one was named, so nothing is printed here. */
static void take(void *self, rgp_history *h)
{
    one_run *one = self;
    const char *text = one->s->w->options->from;
    double from = 0.0;
    one->missed = text && !rgp_moment_of(h, text, &from);
    const double over = one->s->to - one->s->from;
    const double to = over > 0.0 ? from + over : end_of(h);
    if (one->course) {
        take_courses(h, one->s->w->drawn, from, to, one->course);
    }
    one->scores = rgp_scores_of(h, (uint64_t)(from * 1e6), (uint64_t)(to * 1e6) + 1, wants_all(one->s->w));
}

/* "FILE NAME=VALUE ...": at blanks, as a shell splits them. */
static bool read_kind(compare_what *w, const char *text, asked *to)
{
    g_autoptr(GError) error = NULL;
    g_auto(GStrv) part = NULL;
    gsize length;
    if (!g_shell_parse_argv(text, NULL, &part, &error)) {
        command_refuse(w->self, "--run %s: %s", text, error->message);
        return false;
    }
    to->path = g_strdup(part[0]);
    const guint own = g_strv_length(part) - 1, common = w->options->set ? g_strv_length(w->options->set) : 0;
    to->set = g_new0(char *, own + common + 1);
    for (guint i = 0; i < own + common; i++) {
        to->set[i] = g_strdup(i < common ? w->options->set[i] : part[1 + i - common]);
    }
    rgp_rig *rig = rigfile_load(w->self, to->path);
    const bool sound = rig && rgp_file_read(to->path, &to->text, &length, &error);
    if (sound) {
        name_drawn(w, rig->image);
    }
    rgp_rig_free(rig);
    return sound;
}

static bool read_kinds(compare_what *w, GArray *kinds)
{
    for (char **text = w->options->run; *text; text++) {
        asked is = {0};
        const bool sound = read_kind(w, *text, &is);
        g_array_append_val(kinds, is);
        if (!sound) {
            return false;
        }
        add_kind(w, g_strdup(*text));
    }
    return true;
}

static bool read_numbers(const compare_what *w, uint32_t *seeds, double *length, simulating *s)
{
    const compare_options *o = w->options;
    guint64 number = SEEDS;
    if (o->seeds && !g_ascii_string_to_unsigned(o->seeds, 10, 1, SEEDS_MOST, &number, NULL)) {
        command_refuse(w->self, "--seeds %s: write a whole number from 1 to %u", o->seeds, SEEDS_MOST);
        return false;
    }
    *seeds = (uint32_t)number;
    if (!o->length) {
        command_refuse(w->self, "say how long each run is, for example --for 60s");
        return false;
    }
    const char *why;
    if (!read_time(w, "--for", o->length, length) || (o->over && !read_time(w, "--over", o->over, &s->to))) {
        return false;
    }
    if (o->from && rgp_quantity_parse(o->from, "s", &s->from, &why) && !(s->from >= 0.0 && s->from < *length)) {
        command_refuse(w->self, "--from %s: the runs end at %g s", o->from, *length);
        return false;
    }
    if (o->over && s->from + s->to > *length) {
        command_refuse(w->self, "--over %s: the runs end at %g s", o->over, *length);
        return false;
    }
    s->to = o->over ? s->from + s->to : s->from;
    return true;
}

/* Whole rounds of seeds alone are compared: what was stopped in the middle has no pair. */
static bool hand_over(compare_what *w, one_run *all, uint32_t seeds)
{
    uint32_t whole = 0;
    for (uint32_t i = 0; i < seeds; i++) {
        bool done = true;
        for (guint k = 0; k < w->kind->len; k++) {
            const one_run *one = &all[i * w->kind->len + k];
            if (one->missed) {
                command_refuse(
                    w->self, "--from %s: it is no time, and run %u of %s has no such mark and no such line that fired",
                    w->options->from, i + 1, kind_at(w, k)->name);
                return false;
            }
            done &= one->scores != NULL;
        }
        for (guint k = 0; k < w->kind->len && done; k++) {
            const one_run *one = &all[i * w->kind->len + k];
            for (guint v = 0; one->course && v < one->course->len; v++) {
                g_ptr_array_add(w->course, g_steal_pointer(&one->course->pdata[v]));
            }
            g_ptr_array_add(kind_at(w, k)->run, g_steal_pointer(&all[i * w->kind->len + k].scores));
        }
        whole += done;
    }
    if (whole < seeds) {
        g_string_append_printf(w->says, "interrupted: %u of %u seeds were done\n", whole, seeds);
    }
    if (whole == 0) {
        command_refuse(w->self, "interrupted before the first seed was done");
    }
    return whole > 0;
}

/* Seed by seed, in each seed kind by kind. */
static void ask_for_runs(const GArray *kinds, double length, simulating *s, rgp_run_ask *ask, one_run *one)
{
    for (uint32_t i = 0; i < s->runs; i++) {
        const asked *a = &g_array_index(kinds, asked, i % kinds->len);
        one[i].s = s;
        one[i].course = s->w->drawn && i < kinds->len ? g_ptr_array_new() : NULL;
        ask[i] = (rgp_run_ask){.path = a->path,
                               .text = a->text,
                               .set = a->set,
                               .seed = i / kinds->len + 1,
                               .length_us = (uint64_t)(length * 1e6 + 0.5),
                               .self = &one[i]};
    }
}

/* Scores and courses that were not handed over. */
static void free_runs(const one_run *one, uint32_t runs)
{
    for (uint32_t i = 0; i < runs; i++) {
        if (one[i].scores) {
            g_array_unref(one[i].scores);
        }
        for (guint v = 0; one[i].course && v < one[i].course->len; v++) {
            rgp_course_free(one[i].course->pdata[v]);
        }
        if (one[i].course) {
            g_ptr_array_unref(one[i].course);
        }
    }
}

static bool simulate(compare_what *w, const GArray *kinds, uint32_t seeds, double length, simulating *s)
{
    s->runs = seeds * kinds->len;
    g_autofree rgp_run_ask *ask = g_new0(rgp_run_ask, s->runs);
    g_autofree one_run *one = g_new0(one_run, s->runs);
    g_autoptr(GError) error = NULL;
    ask_for_runs(kinds, length, s, ask, one);
    progress passed = progress_begin(s->runs);
    bool sound = rgp_simulated_runs(ask, s->runs, take, progress_tell, &passed, &error);
    progress_end(&passed);
    if (!sound) {
        command_refuse(w->self, "%s", error->message);
    }
    sound = sound && hand_over(w, one, seeds);
    free_runs(one, s->runs);
    return sound;
}

bool compare_simulated(compare_what *w)
{
    GArray *kinds = g_array_new(FALSE, TRUE, sizeof(asked));
    simulating s = {.w = w};
    uint32_t seeds = 0;
    double length = 0.0;
    g_array_set_clear_func(kinds, free_asked);
    rgp_ports_choose("sim");
    const bool sound =
        read_numbers(w, &seeds, &length, &s) && read_kinds(w, kinds) && simulate(w, kinds, seeds, length, &s);
    w->paired = true;
    w->from_s = s.from;
    w->to_s = s.to > s.from ? s.to : length;
    g_array_unref(kinds);
    return sound;
}
