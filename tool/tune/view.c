/* Tuning on the whole screen: the loop that shows, takes keys and leaves. */
#include "view.h"

#include "tool/terminal/screen.h"

#include <string.h>

#define DRAW_MS 80

static void show_look(void *self)
{
    tune_view *v = self;
    v->chart.history = rgp_door_look(v->door);
}

static void show_look_away(void *self)
{
    rgp_door_look_away(((tune_view *)self)->door);
}

/* The rig from its beginning, with the gains and settings as they are; the tries stay. */
static void begin_anew(tune_view *v)
{
    g_autoptr(GError) error = NULL;
    rgp_door_result result;
    rgp_door_stop(v->door);
    rgp_door_end(v->door, &result);
    rgp_door_result_clear(&result);
    v->renews = v->testing = v->stepped = v->stopped = false;
    v->disturbed = 0;
    if (v->next) {
        rgp_rig_free(v->rig);
        v->setup.rig = v->rig = v->next;
        v->next = NULL;
    }
    v->door = v->shown.door = rgp_door_open(&v->setup, &error);
    v->lost = !v->door;
    if (v->door) {
        v->chart.history = rgp_door_look(v->door);
        rgp_door_look_away(v->door);
        tune_set_gains(v, v->gain);
        tune_ask(v, RGP_COMMAND_PACE, 0, v->pace);
        tune_say(v, "the rig begins anew");
    }
}

/* Asked between two looks, when nobody holds the history. */
static bool show_over(void *self)
{
    tune_view *v = self;
    if (v->renews) {
        begin_anew(v);
    }
    return v->leaving || v->lost || rgp_door_over(v->door);
}

static void show_draw(void *self)
{
    tune_follow_test(self);
    tune_draw_view(self);
}

static void show_key(void *self, int key)
{
    tune_view *v = self;
    if (rgp_history_end(v->chart.history) > 0 || key == 'q') {
        tune_key(v, key);
    }
}

int tune_by_keys(tuning *t)
{
    g_autoptr(GError) error = NULL;
    const rgp_door_setup setup = {.rig = t->file, .seed = t->seed, .history = true, .on_word = true, .pace = t->pace};
    rgp_door_result result;
    rgp_door *s = rgp_door_open(&setup, &error);
    if (!s) {
        return command_refuse(t->self, "%s", error->message);
    }
    tune_view v = {.t = t, .door = s, .setup = setup, .pace = t->pace > 0.0 ? t->pace : 1.0};
    prompt_begin(&v.prompt);
    v.chart = (view){.image = t->image, .history = rgp_door_look(s), .span = 1.2 * t->over, .close = true};
    tune_choose_curves(&v);
    rgp_door_look_away(s);
    tune_file_gains(t, v.gain);
    g_autofree char *others = tune_other_drivers(t);
    if (others) {
        tune_say(&v, "%s", others);
    }
    const bool shown = screen_begin();
    if (shown) {
        v.shown = (show){&v, s, DRAW_MS, show_look, show_look_away, show_over, show_draw, show_key};
        show_run(&v.shown);
        screen_end();
    }
    if (v.lost) {
        result = (rgp_door_result){.fault = RGP_E_PORT};
    } else {
        rgp_door_stop(v.door);
        rgp_door_end(v.door, &result);
    }
    if (v.testing) {
        g_free(v.test.stopped);
    }
    rgp_rig_free(v.rig);
    rgp_rig_free(v.next);
    g_array_unref(v.chart.item);
    prompt_end(&v.prompt);
    note_clear(&v.note);
    rgp_door_result_clear(&result);
    if (!shown) {
        return command_refuse(t->self, "this terminal cannot be written on; use --step, --push or --disturb");
    }
    if (t->tries->len > 0) {
        tune_print(t);
    }
    printf("left; everything is at rest\n");
    return result.fault == RGP_OK ? EXIT_DONE : EXIT_FAULT;
}
