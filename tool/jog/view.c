/* Jogging under a held key: the actuator is driven while the key repeats, and rests when it is let go, which the thread
 * that ticks sees to, also when this one cannot. */
#include "jog.h"

#include "tool/terminal/keys.h"
#include "tool/terminal/prompt.h"
#include "tool/terminal/screen.h"
#include "runtime/door.h"
#include "tool/terminal/show.h"

#include "analysis/change.h"
#include "explain/describe.h"

#include <curses.h>
#include <math.h>
#include <stdio.h>
#include <string.h>

#define DRAW_MS    50
#define STEP_FIRST 3
#define STEPS_MOST 2.0  /* counts that rounding can do */
#define FIRST_S    0.8f /* until a key begins to repeat */
#define REPEAT_S   0.3f /* while it does */
#define REST_US    3000000u

static const double steps[] = {1, 2, 5, 10, 20, 50, 100}; /* percent of the way from rest to its end */

typedef struct jog_view {
    jog *j;
    rgp_door *door;
    const rgp_history *history;
    guint step;  /* of `steps`; of an actuator with names: which of them */
    guint names; /* 0: it has none */
    bool driving, leaving, help;
    gint64 pressed_us;
    uint64_t from; /* row at which driving began */
    uint64_t to;   /* newest row that was driven */
    note note;
} jog_view;

static float driven_now(const jog_view *v)
{
    const uint32_t slot = rgp_image_actuator_slot(v->j->rig->image, v->j->actuator);
    const uint64_t end = rgp_history_end(v->history);
    return end ? rgp_history_value(v->history, (uint32_t)rgp_history_slot(v->history, slot), end - 1) : 0.0f;
}

static bool is_driven(const jog_view *v)
{
    const uint64_t end = rgp_history_end(v->history);
    return end > 0 && (uint16_t)rgp_history_value(v->history, rgp_history_owner(v->history, v->j->actuator), end - 1) !=
                          RGP_OWNER_REST;
}

/* The value that a press asks for: the way up or down from its rest, or what was chosen. */
static double asked_by(const jog_view *v, double sign)
{
    const rgp_image_actuator *a = jog_actuator(v->j);
    if (v->names > 0) {
        return v->step;
    }
    if (a->kind == RGP_ACTUATOR_SWITCH) {
        return sign > 0.0 ? 1.0 : 0.0;
    }
    const double rest = (double)a->rest, end = (double)(sign > 0.0 ? a->high : a->low);
    return rest + (end - rest) * steps[v->step] / 100.0;
}

static void put_asked(const jog_view *v, double sign, GString *to)
{
    rgp_describe_value(v->j->rig->image, rgp_image_actuator_slot(v->j->rig->image, v->j->actuator),
                       (float)asked_by(v, sign), to);
}

/* False with a note when there is nowhere to go that way. */
static bool can_go(jog_view *v, double sign)
{
    const rgp_image_actuator *a = jog_actuator(v->j);
    note_clear(&v->note);
    if (v->names > 0 && sign < 0.0) {
        note_say(&v->note, "↑ drives it with the name that ←→ chose");
        return false;
    }
    if (v->names == 0 && a->kind != RGP_ACTUATOR_SWITCH && asked_by(v, sign) == (double)a->rest) {
        note_say(&v->note, "%s goes one way only", jog_name(v->j));
        return false;
    }
    return true;
}

static void hold_key(jog_view *v, int key)
{
    const double sign = key == KEY_UP || key == '+' ? 1.0 : -1.0;
    const gint64 now = g_get_monotonic_time();
    const bool repeats = v->driving && now - v->pressed_us < (gint64)((double)FIRST_S * 1e6);
    if (!can_go(v, sign)) {
        return;
    }
    const rgp_command asked = {RGP_COMMAND_HOLD, RGP_BY_PERSON, (uint16_t)v->j->actuator, (float)asked_by(v, sign),
                               repeats ? REPEAT_S : FIRST_S};
    if (!v->driving) {
        v->from = rgp_history_end(v->history);
    }
    v->driving = true;
    v->pressed_us = now;
    rgp_door_ask(v->door, &asked);
}

static void choose_key(jog_view *v, int key)
{
    const guint count = v->names > 0 ? v->names : G_N_ELEMENTS(steps);
    if (key == KEY_RIGHT) {
        v->step += v->step + 1 < count;
    } else {
        v->step -= v->step > 0;
    }
}

static void write_key(jog_view *v, int key)
{
    (void)key;
    const rgp_image_actuator *a = jog_actuator(v->j);
    const char *unit =
        rgp_image_unit(v->j->rig->image, RGP_NAME_SLOT, rgp_image_actuator_slot(v->j->rig->image, v->j->actuator), 0);
    g_autofree char *why = NULL;
    if (v->names > 0 || a->kind == RGP_ACTUATOR_SWITCH || strcmp(unit, "%") != 0 || a->rest != 0.0f) {
        note_say(&v->note, "only what is driven in percent from 0 has a least power");
        return;
    }
    v->j->least = fabs(asked_by(v, 1.0));
    if (jog_write_least(v->j, &why)) {
        note_say(&v->note, "%s is written: least %g %%", v->j->path, v->j->least);
    } else {
        note_say(&v->note, "%s", why);
    }
}

static void help_key(jog_view *v, int key)
{
    (void)key;
    v->help = !v->help;
}

static void leave_key(jog_view *v, int key)
{
    (void)key;
    v->leaving = true;
}

enum { WITH_NAMES = 1, WITH_POWER = 2, ALWAYS = WITH_NAMES | WITH_POWER };

static const struct {
    KEY_FACE;
    void (*run)(jog_view *v, int key);
} keys[] = {
    {KEY_UP, '+', "↑ +", "held: drives it up from its rest; let go: it rests", "hold ↑ ↓: drive, let go: rest", ALWAYS,
     hold_key},
    {KEY_DOWN, '-', "↓ -", "held: drives it down from its rest; a switch: off", NULL, 0, hold_key},
    {KEY_RIGHT, 0, "→", "more of the way to its end, or the next of its names", "←→ power", WITH_POWER, choose_key},
    {KEY_LEFT, 0, "←", "less of the way, or the name before", "←→ name", WITH_NAMES, choose_key},
    {'w', 0, "w", "write the power of a press into the rig file as the least", "w write as least", WITH_POWER,
     write_key},
    {'?', 0, "?", "this page, and back", "? all keys", ALWAYS, help_key},
    {'q', 0, "q", "leave; everything rests", "q leave", ALWAYS, leave_key},
};

/* Any other key lets it go. */
static void take_key(jog_view *v, int key)
{
    const size_t i = keys_find(KEY_TABLE(keys), key);
    const rgp_command let_go = {RGP_COMMAND_RELEASE, RGP_BY_PERSON, (uint16_t)v->j->actuator, 0.0f, 0.0f};
    if (i < G_N_ELEMENTS(keys)) {
        v->help = v->help && keys[i].run == help_key;
        keys[i].run(v, key);
    } else {
        rgp_door_ask(v->door, &let_go);
    }
}

/* ---- drawing --------------------------------------------------------------------------------------- */

/* From when on it was at rest before it was driven. */
static uint64_t rest_before(const jog_view *v)
{
    const uint64_t at = rgp_history_time_us(v->history, v->from ? v->from - 1 : 0);
    return rgp_history_find(v->history, at > REST_US ? at - REST_US : 0);
}

/* "up by 118 counts, 19 x noise, from 0.36 s": what is seen, which another cause may have made. */
static void describe_change(const jog_view *v, uint32_t sensor, const rgp_change *c, GString *to)
{
    const rgp_image_header *image = v->j->rig->image;
    if (!c->known) {
        g_string_append(to, "no readings to compare with");
    } else if (!c->changed) {
        g_string_append(to, "no change seen");
    } else if (!jog_is_number(v->j, sensor)) {
        g_string_append_printf(to, "changes, from %.2f s on", c->after);
    } else {
        g_string_append_printf(to, "%s by ", c->by > 0.0 ? "up" : "down");
        rgp_describe_number(fabs(c->by), rgp_image_unit(image, RGP_NAME_SLOT, rgp_image_sensor_slot(image, sensor), 0),
                            to);
        if (c->noise > 0.0) {
            g_string_append_printf(to, ", %.0f x noise", fabs(c->by) / c->noise);
        }
        g_string_append_printf(to, ", from %.2f s", c->after);
    }
}

static void draw_sensor(const jog_view *v, uint32_t sensor, int row)
{
    const rgp_image_header *image = v->j->rig->image;
    const uint32_t slot = rgp_image_sensor_slot(image, sensor), column = (uint32_t)rgp_history_slot(v->history, slot);
    const uint64_t newest = rgp_history_end(v->history) - 1;
    const rgp_quality quality = rgp_history_quality(v->history, column, newest);
    g_autoptr(GString) value = g_string_new(NULL), says = g_string_new(NULL);
    if (rgp_usable(quality)) {
        rgp_describe_value(image, slot, rgp_history_value(v->history, column, newest), value);
    } else {
        g_string_assign(value, rgp_quality_text(quality));
    }
    if (v->to > v->from && v->from > 0) {
        const double least = jog_is_number(v->j, sensor) ? STEPS_MOST : 0.5;
        const rgp_change c = rgp_change_of(v->history, column, least, rest_before(v), v->from, v->to);
        describe_change(v, sensor, &c, says);
    }
    screen_put(row, 1, 14, INK_PLAIN, rgp_image_text(image, RGP_NAME_SLOT, slot, 0));
    screen_put(row, 16, 18, INK_PLAIN, value->str);
    screen_put(row, 35, screen_columns() - 35, g_str_has_prefix(says->str, "no ") ? INK_DIM : INK_GOOD, says->str);
}

/* "a press: ↑ 115 deg, ↓ 65 deg", or what of it there is. */
static void draw_asked(const jog_view *v)
{
    const rgp_image_actuator *a = jog_actuator(v->j);
    g_autoptr(GString) text = g_string_new("a press: ↑ ");
    put_asked(v, 1.0, text);
    if (v->names == 0 && a->kind != RGP_ACTUATOR_SWITCH && a->low < a->rest) {
        g_string_append(text, ", ↓ ");
        put_asked(v, -1.0, text);
    }
    screen_put(2, 40, screen_columns() - 40, INK_PLAIN, text->str);
}

static void draw_jog(const jog_view *v)
{
    if (v->help) {
        screen_clear();
        keys_draw_page(KEY_TABLE(keys));
        return;
    }
    const rgp_image_header *image = v->j->rig->image;
    const rgp_image_actuator *a = jog_actuator(v->j);
    const int last = screen_rows() - 1;
    g_autoptr(GString) value = g_string_new(NULL);
    rgp_describe_value(image, rgp_image_actuator_slot(image, v->j->actuator), driven_now(v), value);
    screen_clear();
    g_autoptr(GString) head = g_string_new(" ");
    g_string_append_printf(head, "%s   %s, ", jog_name(v->j), rgp_image_text(image, RGP_NAME_RIG, 0, 0));
    rgp_describe_value(image, rgp_image_actuator_slot(image, v->j->actuator), a->low, head);
    g_string_append(head, " to ");
    rgp_describe_value(image, rgp_image_actuator_slot(image, v->j->actuator), a->high, head);
    g_autofree char *rest = jog_rest_told(v->j);
    g_string_append_printf(head, "   %s", rest);
    screen_fill(0, 0, screen_columns(), INK_HEAD, head->str);
    const uint64_t end = rgp_history_end(v->history);
    const char *guard = end > 0 ? jog_guard_at(v->j, v->history, end - 1) : "";
    screen_printf(2, 1, 38, is_driven(v) ? INK_GOOD : INK_STRONG, "%s   %s", value->str,
                  *guard         ? "kept from it"
                  : is_driven(v) ? "driven by hand"
                                 : "at rest");
    screen_put(3, 1, screen_columns(), INK_WARN, guard);
    draw_asked(v);
    screen_put(4, 1, 14, INK_DIM, "sensor");
    screen_put(4, 16, 18, INK_DIM, "reads");
    screen_put(4, 35, 40, INK_DIM, "while it is driven");
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_SENSORS) && rgp_history_end(v->history) > 0; i++) {
        draw_sensor(v, i, 5 + (int)i);
    }
    screen_put(last - 1, 1, screen_columns(), INK_WARN, note_now(&v->note) ? note_now(&v->note) : "");
    keys_draw_hints(KEY_TABLE(keys), v->names > 0 ? WITH_NAMES : WITH_POWER, last, screen_columns());
}

/* ---- the loop -------------------------------------------------------------------------------------- */

static void follow(jog_view *v)
{
    const bool driven = is_driven(v);
    if (v->driving && driven) {
        v->to = rgp_history_end(v->history);
    } else if (v->driving && g_get_monotonic_time() - v->pressed_us > (gint64)((double)FIRST_S * 1e6)) {
        v->driving = false;
    }
}

static void show_look(void *self)
{
    jog_view *v = self;
    v->history = rgp_door_look(v->door);
}

static void show_look_away(void *self)
{
    rgp_door_look_away(((jog_view *)self)->door);
}

static bool show_over(void *self)
{
    const jog_view *v = self;
    return v->leaving || rgp_door_over(v->door);
}

static void show_draw(void *self)
{
    follow(self);
    draw_jog(self);
}

static void show_key(void *self, int key)
{
    take_key(self, key);
}

int jog_by_keys(jog *j)
{
    g_autoptr(GError) error = NULL;
    const rgp_door_setup setup = {.rig = j->rig, .seed = j->seed, .history = true, .on_word = true, .hand_only = true};
    rgp_door_result result;
    rgp_door *s = rgp_door_open(&setup, &error);
    if (!s) {
        return command_refuse(j->self, "%s", error->message);
    }
    jog_view v = {.j = j, .door = s};
    const uint32_t slot = rgp_image_actuator_slot(j->rig->image, j->actuator);
    while (rgp_image_name_of(j->rig->image, RGP_NAME_PART, slot, v.names)) {
        v.names++;
    }
    v.step = v.names > 0 ? 1 : STEP_FIRST;
    const bool shown = screen_begin();
    if (shown) {
        show_run(&(show){&v, s, DRAW_MS, show_look, show_look_away, show_over, show_draw, show_key});
        screen_end();
    }
    rgp_door_stop(s);
    rgp_door_end(s, &result);
    note_clear(&v.note);
    rgp_door_result_clear(&result);
    if (!shown) {
        return command_refuse(j->self, "this terminal cannot be written on; use --to VALUE or --least");
    }
    printf("%s is at rest\n", jog_name(j));
    return result.fault == RGP_OK ? EXIT_DONE : EXIT_FAULT;
}
