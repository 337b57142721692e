/* Keys that ask something of the rig. */
#include "watch.h"

#include <math.h>
#include <string.h>

#define ASKED_US     500000
#define PACE_SLOWEST 0.0625
#define PACE_FASTEST 64.0
#define CLEAR_US     2000000 /* for the second press */

static const rgp_image_param *param_of(const watching *w, uint32_t slot)
{
    return (const rgp_image_param *)rgp_image_at(w->view.image, RGP_SECTION_PARAMS) + slot;
}

static const rgp_image_actuator *actuator_of(const watching *w, const view_item *i)
{
    return (const rgp_image_actuator *)rgp_image_at(w->view.image, RGP_SECTION_ACTUATORS) + i->index -
           rgp_image_actuator_slot(w->view.image, 0);
}

static float value_of(const watching *w, const view_item *i)
{
    return rgp_history_value(w->view.history, i->column, w->view.row);
}

/* RGP_COMMANDS: a mark or a recording. */
bool watch_may(watching *w, rgp_command_kind what)
{
    const char *why = rgp_door_refuses(w->door, what);
    if (why) {
        watch_say(w, "%s", why);
    }
    return !why;
}

void watch_ask_rig(watching *w, rgp_command_kind what, uint32_t which, float value)
{
    const rgp_command command = {(uint8_t)what, RGP_BY_PERSON, (uint16_t)which, value, 0.0f};
    if (rgp_door_ask(w->door, &command) == RGP_E_ROOM) {
        watch_say(w, "too much was asked at once; try again");
    }
}

static void change_param(watching *w, const view_item *is, double value)
{
    const rgp_image_param *p = param_of(w, is->index);
    g_autofree char *text = g_strdup_printf("%.6g", value);
    const double round_value = CLAMP(g_ascii_strtod(text, NULL), (double)p->low, (double)p->high);
    watch_ask_rig(w, RGP_COMMAND_SET, is->index, (float)round_value);
    w->changed[is->index] = true;
    watch_say(w, "%s = %.6g %s", view_name(&w->view, is), round_value, view_unit(&w->view, is));
}

static void drive_by_hand(watching *w, const view_item *is, double value)
{
    const rgp_image_actuator *a = actuator_of(w, is);
    const double kept = CLAMP(value, (double)a->low, (double)a->high);
    watch_ask_rig(w, RGP_COMMAND_HAND, is->index - rgp_image_actuator_slot(w->view.image, 0), (float)kept);
    watch_say(w, "%s by hand: %.6g %s; h gives it back", view_name(&w->view, is), kept, view_unit(&w->view, is));
}

static bool take_value(void *self, const char *answer)
{
    watching *w = self;
    const view_item *is = view_item_at(&w->view, w->prompt.which);
    const char *why;
    double number;
    for (uint32_t part = 0; is->kind == ITEM_ACTUATOR && part < 2; part++) {
        if (strcmp(rgp_image_text(w->view.image, RGP_NAME_PART, is->index, part), answer) == 0) {
            drive_by_hand(w, is, part);
            return true;
        }
    }
    if (!rgp_quantity_parse(answer, view_unit(&w->view, is), &number, &why) &&
        !rgp_quantity_parse(answer, "", &number, &why)) {
        watch_say(w, "'%s': %s", answer, why);
        return false;
    }
    const rgp_image_param *p = is->kind == ITEM_PARAM ? param_of(w, is->index) : NULL;
    const double low = p ? (double)p->low : (double)actuator_of(w, is)->low,
                 high = p ? (double)p->high : (double)actuator_of(w, is)->high;
    if (!(number >= low && number <= high)) {
        watch_say(w, "%s can be from %g to %g %s", view_name(&w->view, is), low, high, view_unit(&w->view, is));
        return false;
    }
    if (p) {
        change_param(w, is, number);
    } else {
        drive_by_hand(w, is, number);
    }
    return true;
}

void watch_type_value(watching *w)
{
    const view_item *is = view_selected(&w->view);
    if (is->kind != ITEM_PARAM && is->kind != ITEM_ACTUATOR) {
        watch_toggle_series(w);
    } else if (watch_may(w, is->kind == ITEM_PARAM ? RGP_COMMAND_SET : RGP_COMMAND_HAND)) {
        watch_ask(w, take_value, w->view.selected, "%s, in %s", view_name(&w->view, is),
                  *view_unit(&w->view, is) ? view_unit(&w->view, is) : "on or off");
    }
}

/* The present or coming state of an item. */
static double value_soon(const watching *w, const view_item *is)
{
    const bool asked = w->asked.item == w->view.selected && g_get_monotonic_time() < w->asked.until;
    return asked ? w->asked.value : (double)value_of(w, is);
}

static void remember_asked(watching *w, double value)
{
    w->asked.item = w->view.selected;
    w->asked.value = value;
    w->asked.until = g_get_monotonic_time() + ASKED_US;
}

/* A hundredth of the range, as 1, 2 or 5 times a power of ten. */
static double step_of(double low, double high)
{
    const double rough = (high - low) / 100.0, power = pow(10.0, floor(log10(rough)));
    const double head = rough / power;
    return power * (head < 1.5 ? 1.0 : head < 3.5 ? 2.0 : head < 7.5 ? 5.0 : 10.0);
}

static void step_value(watching *w, double sign)
{
    const view_item *is = view_selected(&w->view);
    if (is->kind != ITEM_PARAM && is->kind != ITEM_ACTUATOR) {
        watch_say(w, "choose a parameter or an actuator with the arrows; + and - change it");
    } else if (watch_may(w, is->kind == ITEM_PARAM ? RGP_COMMAND_SET : RGP_COMMAND_HAND)) {
        const rgp_image_param *p = is->kind == ITEM_PARAM ? param_of(w, is->index) : NULL;
        const rgp_image_actuator *a = p ? NULL : actuator_of(w, is);
        const double step = p ? step_of((double)p->low, (double)p->high) : a->kind == RGP_ACTUATOR_SWITCH ? 1.0 : 5.0;
        const double value = value_soon(w, is) + sign * step;
        remember_asked(w, value);
        if (p) {
            change_param(w, is, value);
        } else {
            drive_by_hand(w, is, value);
        }
    }
}

void watch_value_up(watching *w)
{
    step_value(w, 1.0);
}

void watch_value_down(watching *w)
{
    step_value(w, -1.0);
}

static bool is_by_hand(const watching *w, uint32_t actuator)
{
    const uint16_t owner =
        (uint16_t)rgp_history_value(w->view.history, rgp_history_owner(w->view.history, actuator), w->view.row);
    const rgp_image_actuator *a =
        (const rgp_image_actuator *)rgp_image_at(w->view.image, RGP_SECTION_ACTUATORS) + actuator;
    return owner == a->first_claim;
}

void watch_toggle_hand(watching *w)
{
    const view_item *is = view_selected(&w->view);
    if (is->kind != ITEM_ACTUATOR) {
        watch_say(w, "choose an actuator with the arrows; h takes it by hand");
    } else if (watch_may(w, RGP_COMMAND_HAND)) {
        const uint32_t actuator = is->index - rgp_image_actuator_slot(w->view.image, 0);
        if (is_by_hand(w, actuator)) {
            watch_ask_rig(w, RGP_COMMAND_RELEASE, actuator, 0.0f);
            watch_say(w, "%s is given back", view_name(&w->view, is));
        } else {
            drive_by_hand(w, is, (double)value_of(w, is));
        }
    }
}

void watch_toggle_rest(watching *w)
{
    if (watch_may(w, RGP_COMMAND_STOP)) {
        w->stopped = !w->stopped;
        watch_ask_rig(w, w->stopped ? RGP_COMMAND_STOP : RGP_COMMAND_RESUME, 0, 0.0f);
        watch_say(w, w->stopped ? "everything to rest; ! goes on" : "the rules may act again");
    }
}

void watch_clear_faults(watching *w)
{
    const gint64 now = g_get_monotonic_time();
    if (!watch_may(w, RGP_COMMAND_CLEAR)) {
        return;
    }
    if (now > w->clear_until) {
        w->clear_until = now + CLEAR_US;
        watch_say(w, "c once more clears the faults");
        return;
    }
    w->clear_until = 0;
    watch_ask_rig(w, RGP_COMMAND_CLEAR, 0, 0.0f);
    watch_say(w, "faults are cleared");
}

static void go_at(watching *w, double times)
{
    if (watch_may(w, RGP_COMMAND_PACE)) {
        w->pace = CLAMP(w->pace * times, PACE_SLOWEST, PACE_FASTEST);
        watch_ask_rig(w, RGP_COMMAND_PACE, 0, (float)w->pace);
        watch_say(w, "%g times as fast as the wall clock", w->pace);
    }
}

void watch_go_slower(watching *w)
{
    go_at(w, 0.5);
}

void watch_go_faster(watching *w)
{
    go_at(w, 2.0);
}
