/* rigpulse watch: a rig, or a recording, on the whole screen. */
#include "watch.h"

#include "runtime/interrupt.h"
#include "tool/begin.h"
#include "tool/plain/play.h"
#include "tool/rigfile.h"
#include "tool/terminal/screen.h"
#include "tool/terminal/show.h"

#include <stdio.h>
#include <string.h>
#include <unistd.h>

#define DRAW_MS 80
#define SPAN_S  20.0

/* ---- the loop -------------------------------------------------------------------------------------- */

/* Follows the newest row unless frozen; keeps a frozen one among those that are still kept. */
static void follow(watching *w)
{
    const uint64_t end = rgp_history_end(w->view.history);
    if (end == 0) {
        return;
    }
    if (!w->view.frozen) {
        w->view.row = end - 1;
        w->view.right_us = rgp_history_time_us(w->view.history, w->view.row);
    }
    w->view.row = CLAMP(w->view.row, rgp_history_first(w->view.history), end - 1);
}

static void describe_complaint(watching *w)
{
    g_autofree char *complaint = rgp_door_complaint(w->door);
    if (complaint && !w->complained) {
        w->complained = true;
        watch_say(w, w->door->ending ? "%s" : "%s; the run goes on", complaint);
        g_clear_pointer(&w->recording, g_free);
    }
}

/* Of a real device: what is wrong is said when it begins, and that it is over. */
static void describe_trouble(watching *w)
{
    g_autofree char *trouble = rgp_door_trouble(w->door);
    if (trouble && !w->trouble) {
        watch_say(w, "%s", trouble);
    } else if (!trouble && w->trouble) {
        watch_say(w, "it is back");
    }
    g_free(w->trouble);
    w->trouble = g_steal_pointer(&trouble);
}

static void show_look(void *self)
{
    watching *w = self;
    describe_complaint(w);
    describe_trouble(w);
    w->view.history = rgp_door_look(w->door);
    follow(w);
}

static void show_look_away(void *self)
{
    rgp_door_look_away(((watching *)self)->door);
}

static bool show_over(void *self)
{
    return ((const watching *)self)->leaving;
}

static void show_draw(void *self)
{
    watch_draw(self);
}

static void show_key(void *self, int key)
{
    watching *w = self;
    if (rgp_history_end(w->view.history) > 0 || key == 'q') {
        watch_key(w, key);
    }
}

static void watch_all(watching *w)
{
    show_run(&(show){w, w->door, DRAW_MS, show_look, show_look_away, show_over, show_draw, show_key});
}

static void begin_view(watching *w)
{
    w->view.span = SPAN_S;
    w->was_row = UINT64_MAX;
    w->pace = w->pace > 0.0 ? w->pace : 1.0;
    w->changed = g_new0(bool, rgp_image_count(w->view.image, RGP_SECTION_PARAMS) + 1);
    prompt_begin(&w->prompt);
    watch_find_items(&w->view);
}

static void end_view(watching *w)
{
    watch_end_why(w);
    g_array_unref(w->view.item);
    prompt_end(&w->prompt);
    note_clear(&w->note);
    g_free(w->changed);
    g_free(w->recording);
    rgp_rig_free(w->file);
}

/* ---- the command ----------------------------------------------------------------------------------- */

/* The run's end in words; of a recording there is nothing to say. */
static int describe_end(const watching *w, const rgp_door_result *r)
{
    const bool fault = r->fault != RGP_OK || r->record_failed || r->gaps > 0;
    printf("%s after %g s: %" G_GUINT64_FORMAT " ticks; actuators at rest\n",
           r->fault != RGP_OK ? "fault"
           : r->interrupted   ? "interrupted"
                              : "left",
           (double)r->end_us / 1e6, r->ticks);
    if (r->fault != RGP_OK) {
        printf("the port is lost: %s\n", rgp_status_text(r->fault));
    }
    if (r->gaps > 0) {
        printf("%" G_GUINT64_FORMAT " ticks are missing in what was shown and recorded\n", r->gaps);
    }
    if (r->account) {
        printf("%s\n", r->account);
    }
    if (r->complaint) {
        printf("%s\n", r->complaint);
    } else if (w->recording) {
        printf("recorded %s.csv, .events.jsonl and .json\n", w->recording);
    }
    return fault ? EXIT_FAULT : EXIT_DONE;
}

static void say_beginning(watching *w, const rgp_door_setup *setup)
{
    char *says = setup->says ? *setup->says : NULL;
    if (says || setup->dry) {
        watch_say(w, "%s%s", setup->dry ? "a dry run: nothing is driven. " : "",
                  says ? g_strdelimit(says, "\n", ' ') : "");
    }
}

/* A recording is seen at its end; one that is still being read at its beginning. */
static void begin_recorded(watching *w)
{
    const rgp_history *h = w->view.history;
    const uint64_t last = rgp_history_end(h) - 1, first = rgp_history_time_us(h, 0);
    const bool whole = rgp_door_share(w->door) >= 1.0;
    w->view.row = whole ? last : 0;
    w->view.right_us = MIN(rgp_history_time_us(h, last), whole ? UINT64_MAX : first + (uint64_t)(SPAN_S * 1e6));
}

/* `path`: of the rig file; NULL: of a recording. */
static int watch_door(const command *self, const char *path, rgp_door_setup *setup)
{
    g_autoptr(GError) error = NULL;
    g_autofree char *says = NULL;
    setup->history = true;
    setup->says = &says;
    interrupt_catch();
    rgp_door *door = rgp_door_open(setup, &error);
    if (!door) {
        return command_refuse(self, "%s", error->message);
    }
    watching w = {.view = {.image = door->rig->image, .frozen = rgp_door_over(door) && door->ending},
                  .door = door,
                  .path = path,
                  .recorded = setup->recording,
                  .recording = g_strdup(setup->record),
                  .pace = setup->pace};
    rgp_door_result result;
    w.view.history = rgp_door_look(door);
    begin_view(&w);
    if (w.view.frozen) {
        begin_recorded(&w);
    }
    rgp_door_look_away(door);
    const bool shown = screen_begin();
    say_beginning(&w, setup);
    if (shown) {
        watch_all(&w);
        screen_end();
    }
    const bool recorded = door->ending != NULL;
    rgp_door_stop(door);
    rgp_door_end(door, &result);
    const char *term = g_getenv("TERM");
    const int status =
        !shown && recorded ? command_refuse(self, "this is no terminal that can be written on; see 'rigpulse list %s'",
                                            setup->recording)
        : !shown
            ? command_refuse(self, "this terminal ('%s') cannot be written on; try 'rigpulse run'", term ? term : "")
        : recorded ? (result.record_failed ? EXIT_FAULT : EXIT_DONE)
                   : describe_end(&w, &result);
    rgp_door_result_clear(&result);
    end_view(&w);
    g_free(w.trouble);
    return status;
}

static int watch_file(const command *self, const char *path, const begin_options *o, rgp_door_setup *setup)
{
    rgp_rig *rig = rigfile_load(self, path);
    const bool screen = isatty(STDIN_FILENO) && isatty(STDOUT_FILENO);
    int status = EXIT_USAGE;
    if (rig && begin_fits(self, o, rig)) {
        setup->rig = rig;
        status = screen ? watch_door(self, path, setup) : play(self, setup, PLAY_ALL);
    }
    rgp_rig_free(rig);
    return status;
}

static int watch_recording(const command *self, const char *name, const begin_options *o, rgp_door_setup *setup)
{
    setup->recording = name;
    return begin_pace(self, o->pace, &setup->pace) ? watch_door(self, NULL, setup) : EXIT_USAGE;
}

static int run_watch(const command *self, int argc, char **argv)
{
    begin_options o = {0};
    g_autofree char *from = NULL;
    rgp_door_setup setup = {0};
    const GOptionEntry entries[] = {
        BEGIN_ENTRIES(&o),
        {"from", 0, 0, G_OPTION_ARG_FILENAME, &from, "look at a recording instead; with --pace as if it ran",
         "RECORDING"},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (command_options(self, entries, &argc, &argv, 0, 1, &status)) {
        status = EXIT_USAGE;
        if ((argc > 1) == (from != NULL)) {
            command_refuse(self, "it needs a rig FILE, or --from RECORDING; for example: %s", self->example);
        } else if (from && begin_any_of_rig(&o)) {
            command_refuse(self,
                           "a recording is only looked at, or played with --pace; the other options are for a rig");
        } else if (from) {
            status = watch_recording(self, from, &o, &setup);
        } else if (begin_parse(self, &o, &setup)) {
            status = watch_file(self, argv[1], &o, &setup);
        }
    }
    begin_clear(&o);
    return status;
}

const command command_watch = {"watch", "FILE",
                               "runs a rig on the whole screen: values, curves, events, changes by hand",
                               "rigpulse watch examples/basin.rig", run_watch};
