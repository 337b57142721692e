/* Jogging under a held key: the actuator is driven while the key repeats, and rests when it is let go, which the thread
 * that ticks sees to, also when this one cannot. */
#include "jog.h"

#include "screen.h"
#include "session.h"
#include "show.h"

#include "analysis/change.h"
#include "record/tell.h"

#include <curses.h>
#include <math.h>
#include <stdio.h>
#include <string.h>

#define DRAW_MS    50
#define STEPS_MOST 2.0  /* counts that rounding can do */
#define FIRST_S    0.8f /* until a key begins to repeat */
#define REPEAT_S   0.3f /* while it does */
#define REST_US    3000000u

static const double steps[] = {1, 2, 5, 10, 20, 50, 100};

typedef struct jog_view {
    jog *j;
    session *session;
    const rp_history *history;
    guint step;
    bool driving, leaving;
    gint64 pressed_us;
    uint64_t from; /* row at which driving began */
    uint64_t to;   /* newest row that was driven */
    char *note;
} jog_view;

static float driven_now(const jog_view *v)
{
    const uint32_t slot = rp_image_actuator_slot(v->j->rig->image, v->j->actuator);
    const uint64_t end = rp_history_end(v->history);
    return end ? rp_history_value(v->history, (uint32_t)rp_history_slot(v->history, slot), end - 1) : 0.0f;
}

static bool is_driven(const jog_view *v)
{
    const uint64_t end = rp_history_end(v->history);
    return end > 0 && (uint16_t)rp_history_value(v->history, rp_history_owner(v->history, v->j->actuator), end - 1) !=
                          RP_OWNER_REST;
}

static void hold(jog_view *v, double sign)
{
    const rp_image_actuator *a = jog_actuator(v->j);
    const bool is_switch = a->kind == RP_ACTUATOR_SWITCH;
    const double value = is_switch ? (sign > 0.0 ? 1.0 : 0.0) : sign * steps[v->step];
    const gint64 now = g_get_monotonic_time();
    const bool repeats = v->driving && now - v->pressed_us < (gint64)((double)FIRST_S * 1e6);
    const session_command asked = {WISH_HOLD, (uint16_t)v->j->actuator,
                                   (float)CLAMP(value, (double)a->low, (double)a->high), repeats ? REPEAT_S : FIRST_S};
    g_clear_pointer(&v->note, g_free);
    if (sign < 0.0 && a->low >= 0.0f) {
        v->note = g_strdup_printf("%s goes one way only", jog_name(v->j));
        return;
    }
    if (!v->driving) {
        v->from = rp_history_end(v->history);
    }
    v->driving = true;
    v->pressed_us = now;
    session_ask(v->session, &asked);
}

static void write_least(jog_view *v)
{
    g_autofree char *why = NULL;
    v->j->least = fabs((double)steps[v->step]);
    g_clear_pointer(&v->note, g_free);
    if (jog_actuator(v->j)->kind == RP_ACTUATOR_SWITCH) {
        v->note = g_strdup("it is on or off, and has no least power");
    } else {
        v->note = jog_write_least(v->j, &why) ? g_strdup_printf("%s is written: least %g %%", v->j->path, v->j->least)
                                              : g_strdup(why);
    }
}

static void take_key(jog_view *v, int key)
{
    switch (key) {
    case KEY_UP:
    case '+':
        hold(v, 1.0);
        break;
    case KEY_DOWN:
    case '-':
        hold(v, -1.0);
        break;
    case KEY_RIGHT:
        v->step += v->step + 1 < G_N_ELEMENTS(steps);
        break;
    case KEY_LEFT:
        v->step -= v->step > 0;
        break;
    case 'w':
        write_least(v);
        break;
    case 'q':
        v->leaving = true;
        break;
    default: {
        const session_command asked = {WISH_RELEASE, (uint16_t)v->j->actuator, 0.0f, 0.0f};
        session_ask(v->session, &asked);
    }
    }
}

/* ---- drawing --------------------------------------------------------------------------------------- */

/* From when on it was at rest before it was driven. */
static uint64_t rest_before(const jog_view *v)
{
    const uint64_t at = rp_history_time_us(v->history, v->from ? v->from - 1 : 0);
    return rp_history_find(v->history, at > REST_US ? at - REST_US : 0);
}

/* "up by 118 counts, 19 times its noise, from 0.36 s on": what is seen, which another cause may have made. */
static void tell_change(const jog_view *v, uint32_t sensor, const rp_change *c, GString *to)
{
    const rp_image_header *image = v->j->rig->image;
    if (!c->known) {
        g_string_append(to, "no readings to compare with");
    } else if (!c->changed) {
        g_string_append(to, "no change seen");
    } else if (!jog_is_number(v->j, sensor)) {
        g_string_append_printf(to, "changes, from %.2f s on", c->after);
    } else {
        g_string_append_printf(to, "%s by ", c->by > 0.0 ? "up" : "down");
        rp_tell_number(fabs(c->by), rp_image_unit(image, RP_NAME_SLOT, rp_image_sensor_slot(image, sensor), 0), to);
        if (c->noise > 0.0) {
            g_string_append_printf(to, ", %.0f times its noise", fabs(c->by) / c->noise);
        }
        g_string_append_printf(to, ", from %.2f s on", c->after);
    }
}

static void draw_sensor(const jog_view *v, uint32_t sensor, int row)
{
    const rp_image_header *image = v->j->rig->image;
    const uint32_t slot = rp_image_sensor_slot(image, sensor), column = (uint32_t)rp_history_slot(v->history, slot);
    const uint64_t newest = rp_history_end(v->history) - 1;
    const rp_quality quality = rp_history_quality(v->history, column, newest);
    g_autoptr(GString) value = g_string_new(NULL), says = g_string_new(NULL);
    if (rp_usable(quality)) {
        rp_tell_value(image, slot, rp_history_value(v->history, column, newest), value);
    } else {
        g_string_assign(value, rp_quality_text(quality));
    }
    if (v->to > v->from && v->from > 0) {
        const double least = jog_is_number(v->j, sensor) ? STEPS_MOST : 0.5;
        const rp_change c = rp_change_of(v->history, column, least, rest_before(v), v->from, v->to);
        tell_change(v, sensor, &c, says);
    }
    screen_put(row, 1, 14, INK_PLAIN, rp_image_text(image, RP_NAME_SLOT, slot, 0));
    screen_put(row, 16, 18, INK_PLAIN, value->str);
    screen_put(row, 35, screen_columns() - 35, g_str_has_prefix(says->str, "no ") ? INK_DIM : INK_GOOD, says->str);
}

static void draw(const jog_view *v)
{
    const rp_image_header *image = v->j->rig->image;
    const rp_image_actuator *a = jog_actuator(v->j);
    const int last = screen_rows() - 1;
    g_autoptr(GString) value = g_string_new(NULL);
    rp_tell_value(image, rp_image_actuator_slot(image, v->j->actuator), driven_now(v), value);
    screen_clear();
    g_autofree char *head = g_strdup_printf(" %s   %s, %g to %g   everything else rests", jog_name(v->j),
                                            rp_image_text(image, RP_NAME_RIG, 0, 0), (double)a->low, (double)a->high);
    screen_fill(0, 0, screen_columns(), INK_HEAD, head);
    const uint64_t end = rp_history_end(v->history);
    const char *guard = end > 0 ? jog_guard_at(v->j, v->history, end - 1) : "";
    screen_printf(2, 1, 38, is_driven(v) ? INK_GOOD : INK_STRONG, "%s   %s", value->str,
                  *guard         ? "kept from it"
                  : is_driven(v) ? "driven by hand"
                                 : "at rest");
    screen_put(3, 1, screen_columns(), INK_WARN, guard);
    if (a->kind != RP_ACTUATOR_SWITCH) {
        screen_printf(2, 40, 40, INK_PLAIN, "a press drives it with %g %%", steps[v->step]);
    }
    screen_put(4, 1, 14, INK_DIM, "sensor");
    screen_put(4, 16, 18, INK_DIM, "reads");
    screen_put(4, 35, 40, INK_DIM, "while it is driven");
    for (uint32_t i = 0; i < rp_image_count(image, RP_SECTION_SENSORS) && rp_history_end(v->history) > 0; i++) {
        draw_sensor(v, i, 5 + (int)i);
    }
    if (v->note) {
        screen_put(last - 1, 1, screen_columns(), INK_WARN, v->note);
    }
    screen_fill(last, 0, screen_columns(), INK_HEAD,
                "hold ↑ or ↓: drive, let go: rest  ←→ power  w write it as the least  q leave");
}

/* ---- the loop -------------------------------------------------------------------------------------- */

static void follow(jog_view *v)
{
    const bool driven = is_driven(v);
    if (v->driving && driven) {
        v->to = rp_history_end(v->history);
    } else if (v->driving && g_get_monotonic_time() - v->pressed_us > (gint64)((double)FIRST_S * 1e6)) {
        v->driving = false;
    }
}

static void show_look(void *self)
{
    jog_view *v = self;
    v->history = session_look(v->session);
}

static void show_look_away(void *self)
{
    session_look_away(((jog_view *)self)->session);
}

static bool show_over(void *self)
{
    const jog_view *v = self;
    return v->leaving || session_over(v->session);
}

static void show_draw(void *self)
{
    follow(self);
    draw(self);
}

static void show_key(void *self, int key)
{
    take_key(self, key);
}

int jog_by_keys(jog *j)
{
    g_autoptr(GError) error = NULL;
    const session_setup setup = {.rig = j->rig, .seed = j->seed, .history = true, .on_word = true, .hand_only = true};
    session_result result;
    session *s = session_begin(&setup, &error);
    if (!s) {
        return command_refuse(j->self, "%s", error->message);
    }
    jog_view v = {.j = j, .session = s, .step = 3};
    const bool shown = screen_begin();
    if (shown) {
        show_run(&(show){&v, s, DRAW_MS, show_look, show_look_away, show_over, show_draw, show_key});
        screen_end();
    }
    session_stop(s);
    session_end(s, &result);
    g_free(v.note);
    g_free(result.complaint);
    if (!shown) {
        return command_refuse(j->self, "this terminal cannot be written on; use --to VALUE or --least");
    }
    printf("%s is at rest\n", jog_name(j));
    return result.fault == RP_OK ? EXIT_DONE : EXIT_FAULT;
}
