/* The keys' actions, and the page and the line that tell so. One table for all three. */
#include "tool/terminal/show.h"
#include "view.h"

#include "tool/rewrite.h"

#include "runtime/ports.h"
#include "rigpulse/edit.h"

#include <curses.h>
#include <math.h>
#include <string.h>

#define SPAN_LEAST   0.1
#define SPAN_MOST    36000.0
#define ASKED_US     500000
#define PACE_SLOWEST 0.0625
#define PACE_FASTEST 64.0
#define CLEAR_US     2000000 /* for the second press */

static const rp_image_param *param_of(const view *v, uint32_t slot)
{
    return (const rp_image_param *)rp_image_at(v->image, RP_SECTION_PARAMS) + slot;
}

static const rp_image_actuator *actuator_of(const view *v, const view_item *i)
{
    return (const rp_image_actuator *)rp_image_at(v->image, RP_SECTION_ACTUATORS) + i->index -
           rp_image_actuator_slot(v->image, 0);
}

static float value_of(const view *v, const view_item *i)
{
    return rp_history_value(v->history, i->column, v->row);
}

/* RP_COMMANDS: a mark or a recording. */
static bool may(view *v, rp_command_kind what)
{
    const char *why = rp_door_refuses(v->door, what);
    if (why) {
        view_say(v, "%s", why);
    }
    return !why;
}

static void ask_rig(view *v, rp_command_kind what, uint32_t which, float value)
{
    const rp_command command = {(uint8_t)what, RP_BY_PERSON, (uint16_t)which, value, 0.0f};
    if (rp_door_ask(v->door, &command) == RP_E_ROOM) {
        view_say(v, "too much was asked at once; try again");
    }
}

/* ---- time ------------------------------------------------------------------------------------------ */

static void freeze(view *v)
{
    if (!v->frozen) {
        v->frozen = true;
        v->right_us = rp_history_time_us(v->history, v->row);
    }
}

static void go_to(view *v, uint64_t row)
{
    freeze(v);
    v->row = CLAMP(row, rp_history_first(v->history), rp_history_end(v->history) - 1);
    const uint64_t at = rp_history_time_us(v->history, v->row), span = (uint64_t)(v->span * 1e6);
    if (at > v->right_us) {
        v->right_us = at;
    } else if (v->right_us > span && at < v->right_us - span) {
        v->right_us = at + span;
    }
}

/* To somewhere else, from where one can come back. */
static void jump_to(view *v, uint64_t row)
{
    v->was_row = v->row;
    go_to(v, row);
}

static void jump_back(view *v)
{
    if (v->was_row == UINT64_MAX) {
        view_say(v, "there was no jump yet");
    } else {
        jump_to(v, v->was_row);
    }
}

static void toggle_freeze(view *v)
{
    if (v->frozen) {
        v->frozen = false;
    } else {
        freeze(v);
    }
}

static void step_back(view *v)
{
    go_to(v, v->row > rp_history_first(v->history) ? v->row - 1 : v->row);
}

static void step_on(view *v)
{
    go_to(v, v->row + 1);
}

static void jump_seconds(view *v, double seconds)
{
    const double time = fmax(0.0, view_time(v, v->row) + seconds);
    go_to(v, rp_history_find(v->history, (uint64_t)llround(time * 1e6)));
}

static void scroll_back(view *v)
{
    jump_seconds(v, -v->span / 4.0);
}

static void scroll_on(view *v)
{
    jump_seconds(v, v->span / 4.0);
}

static void go_first(view *v)
{
    jump_to(v, rp_history_first(v->history));
}

static void go_last(view *v)
{
    jump_to(v, rp_history_end(v->history) - 1);
    v->frozen = rp_door_over(v->door);
}

static bool is_milestone(const rp_occurrence *o)
{
    return o->kind != RP_EVENT_ENDED && o->kind != RP_EVENT_DROPPED;
}

static void next_event(view *v)
{
    const GPtrArray *all = rp_history_occurrences(v->history);
    for (guint i = 0; i < all->len; i++) {
        const rp_occurrence *o = all->pdata[i];
        if (o->row > v->row && is_milestone(o)) {
            jump_to(v, o->row);
            return;
        }
    }
    view_say(v, "no event after this");
}

static void previous_event(view *v)
{
    const GPtrArray *all = rp_history_occurrences(v->history);
    for (guint i = all->len; i-- > 0;) {
        const rp_occurrence *o = all->pdata[i];
        if (o->row < v->row && is_milestone(o)) {
            jump_to(v, o->row);
            return;
        }
    }
    view_say(v, "no event before this");
}

/* "12.5 s"; "-0.4 s", from here; or "depth 2 cm": to where it has changed by more than that from what it is here. */
static bool take_jump(view *v, const char *answer)
{
    const char *why, *space = strchr(answer, ' ');
    double number;
    if (rp_quantity_parse(answer, "s", &number, &why)) {
        const double from = *answer == '+' || *answer == '-' ? view_time(v, v->row) : 0.0;
        jump_to(v, rp_history_find(v->history, (uint64_t)llround(CLAMP(from + number, 0.0, 1e12) * 1e6)));
        return true;
    }
    for (guint i = 0; space && i < v->item->len; i++) {
        const view_item *is = view_item_at(v, i);
        if (strlen(view_name(v, is)) != (size_t)(space - answer) ||
            strncmp(view_name(v, is), answer, (size_t)(space - answer)) != 0) {
            continue;
        }
        if (!rp_quantity_parse(space + 1, view_unit(v, is), &number, &why)) {
            view_say(v, "%s: %s", answer, why);
            return false;
        }
        const double here = (double)value_of(v, is);
        for (uint64_t row = v->row + 1; row < rp_history_end(v->history); row++) {
            if (rp_usable(rp_history_quality(v->history, is->column, row)) &&
                fabs((double)rp_history_value(v->history, is->column, row) - here) > number) {
                jump_to(v, row);
                return true;
            }
        }
        view_say(v, "%s does not change by more than that after this", view_name(v, is));
        return true;
    }
    view_say(v,
             "write a time ('12.5 s', or '-0.4 s' from here), or a name and how far it has to change ('depth 2 cm')");
    return false;
}

static void ask_jump(view *v)
{
    view_ask(v, take_jump, 0, "jump to a time ('12.5 s'; '-0.4 s' from here) or to a change ('depth 2 cm')");
}

/* ---- the picture ----------------------------------------------------------------------------------- */

static void zoom(view *v, double factor)
{
    v->span = CLAMP(v->span * factor, SPAN_LEAST, SPAN_MOST);
}

static void zoom_in(view *v)
{
    zoom(v, 0.5);
}

static void zoom_out(view *v)
{
    zoom(v, 2.0);
}

static void zoom_value(view *v, double factor)
{
    for (guint i = 0; i < PANELS_MOST; i++) {
        view_scale *s = &v->scale[i];
        const double middle = (s->low + s->high) / 2.0, half = (s->high - s->low) / 2.0 * factor;
        *s = (view_scale){true, middle - half, middle + half};
    }
}

static void value_in(view *v)
{
    zoom_value(v, 0.5);
}

static void value_out(view *v)
{
    zoom_value(v, 2.0);
}

static void value_auto(view *v)
{
    const bool fixed = v->scale[0].fixed;
    for (guint i = 0; i < PANELS_MOST; i++) {
        v->scale[i].fixed = !fixed;
    }
    view_say(v, fixed ? "the scale follows the values" : "the scale stands");
}

static void toggle_series(view *v)
{
    view_item *is = view_selected(v);
    if (is->kind == ITEM_RULE) {
        view_say(v, "a rule has no curve; its firings stand below the chart");
        return;
    }
    if (is->series >= 0) {
        is->series = -1;
        return;
    }
    bool taken[SERIES_MOST] = {false};
    for (guint i = 0; i < v->item->len; i++) {
        if (view_item_at(v, i)->series >= 0) {
            taken[view_item_at(v, i)->series] = true;
        }
    }
    int free_place = 0;
    while (free_place < SERIES_MOST && taken[free_place]) {
        free_place++;
    }
    if (free_place == SERIES_MOST) {
        view_say(v, "%d curves are the most; take one out first", SERIES_MOST);
    } else {
        is->series = free_place;
    }
}

static void select_up(view *v)
{
    v->selected -= v->selected > 0;
}

static void select_down(view *v)
{
    v->selected += v->selected + 1 < v->item->len;
}

/* ---- values ---------------------------------------------------------------------------------------- */

static void change_param(view *v, const view_item *is, double value)
{
    const rp_image_param *p = param_of(v, is->index);
    g_autofree char *text = g_strdup_printf("%.6g", value);
    const double round_value = CLAMP(g_ascii_strtod(text, NULL), (double)p->low, (double)p->high);
    ask_rig(v, RP_COMMAND_SET, is->index, (float)round_value);
    v->changed[is->index] = true;
    view_say(v, "%s = %.6g %s", view_name(v, is), round_value, view_unit(v, is));
}

static void drive_by_hand(view *v, const view_item *is, double value)
{
    const rp_image_actuator *a = actuator_of(v, is);
    const double kept = CLAMP(value, (double)a->low, (double)a->high);
    ask_rig(v, RP_COMMAND_HAND, is->index - rp_image_actuator_slot(v->image, 0), (float)kept);
    view_say(v, "%s by hand: %.6g %s; h gives it back", view_name(v, is), kept, view_unit(v, is));
}

static bool take_value(view *v, const char *answer)
{
    const view_item *is = view_item_at(v, v->prompt.which);
    const char *why;
    double number;
    for (uint32_t part = 0; is->kind == ITEM_ACTUATOR && part < 2; part++) {
        if (strcmp(rp_image_text(v->image, RP_NAME_PART, is->index, part), answer) == 0) {
            drive_by_hand(v, is, part);
            return true;
        }
    }
    if (!rp_quantity_parse(answer, view_unit(v, is), &number, &why) && !rp_quantity_parse(answer, "", &number, &why)) {
        view_say(v, "'%s': %s", answer, why);
        return false;
    }
    const rp_image_param *p = is->kind == ITEM_PARAM ? param_of(v, is->index) : NULL;
    const double low = p ? (double)p->low : (double)actuator_of(v, is)->low,
                 high = p ? (double)p->high : (double)actuator_of(v, is)->high;
    if (!(number >= low && number <= high)) {
        view_say(v, "%s can be from %g to %g %s", view_name(v, is), low, high, view_unit(v, is));
        return false;
    }
    if (p) {
        change_param(v, is, number);
    } else {
        drive_by_hand(v, is, number);
    }
    return true;
}

static void type_value(view *v)
{
    const view_item *is = view_selected(v);
    if (is->kind != ITEM_PARAM && is->kind != ITEM_ACTUATOR) {
        toggle_series(v);
    } else if (may(v, is->kind == ITEM_PARAM ? RP_COMMAND_SET : RP_COMMAND_HAND)) {
        view_ask(v, take_value, v->selected, "%s, in %s", view_name(v, is),
                 *view_unit(v, is) ? view_unit(v, is) : "on or off");
    }
}

/* The present or coming state of an item. */
static double value_soon(const view *v, const view_item *is)
{
    const bool asked = v->asked.item == v->selected && g_get_monotonic_time() < v->asked.until;
    return asked ? v->asked.value : (double)value_of(v, is);
}

static void remember_asked(view *v, double value)
{
    v->asked.item = v->selected;
    v->asked.value = value;
    v->asked.until = g_get_monotonic_time() + ASKED_US;
}

/* A hundredth of the range, as 1, 2 or 5 times a power of ten. */
static double step_of(double low, double high)
{
    const double rough = (high - low) / 100.0, power = pow(10.0, floor(log10(rough)));
    const double head = rough / power;
    return power * (head < 1.5 ? 1.0 : head < 3.5 ? 2.0 : head < 7.5 ? 5.0 : 10.0);
}

static void step_value(view *v, double sign)
{
    const view_item *is = view_selected(v);
    if (is->kind != ITEM_PARAM && is->kind != ITEM_ACTUATOR) {
        view_say(v, "choose a parameter or an actuator with the arrows; + and - change it");
    } else if (may(v, is->kind == ITEM_PARAM ? RP_COMMAND_SET : RP_COMMAND_HAND)) {
        const rp_image_param *p = is->kind == ITEM_PARAM ? param_of(v, is->index) : NULL;
        const rp_image_actuator *a = p ? NULL : actuator_of(v, is);
        const double step = p ? step_of((double)p->low, (double)p->high) : a->kind == RP_ACTUATOR_SWITCH ? 1.0 : 5.0;
        const double value = value_soon(v, is) + sign * step;
        remember_asked(v, value);
        if (p) {
            change_param(v, is, value);
        } else {
            drive_by_hand(v, is, value);
        }
    }
}

static void value_up(view *v)
{
    step_value(v, 1.0);
}

static void value_down(view *v)
{
    step_value(v, -1.0);
}

static bool is_by_hand(const view *v, uint32_t actuator)
{
    const uint16_t owner = (uint16_t)rp_history_value(v->history, rp_history_owner(v->history, actuator), v->row);
    const rp_image_actuator *a = (const rp_image_actuator *)rp_image_at(v->image, RP_SECTION_ACTUATORS) + actuator;
    return owner == a->first_claim;
}

static void toggle_hand(view *v)
{
    const view_item *is = view_selected(v);
    if (is->kind != ITEM_ACTUATOR) {
        view_say(v, "choose an actuator with the arrows; h takes it by hand");
    } else if (may(v, RP_COMMAND_HAND)) {
        const uint32_t actuator = is->index - rp_image_actuator_slot(v->image, 0);
        if (is_by_hand(v, actuator)) {
            ask_rig(v, RP_COMMAND_RELEASE, actuator, 0.0f);
            view_say(v, "%s is given back", view_name(v, is));
        } else {
            drive_by_hand(v, is, (double)value_of(v, is));
        }
    }
}

static void toggle_rest(view *v)
{
    if (may(v, RP_COMMAND_STOP)) {
        v->stopped = !v->stopped;
        ask_rig(v, v->stopped ? RP_COMMAND_STOP : RP_COMMAND_RESUME, 0, 0.0f);
        view_say(v, v->stopped ? "everything to rest; ! goes on" : "the rules may act again");
    }
}

static void clear_faults(view *v)
{
    const gint64 now = g_get_monotonic_time();
    if (!may(v, RP_COMMAND_CLEAR)) {
        return;
    }
    if (now > v->clear_until) {
        v->clear_until = now + CLEAR_US;
        view_say(v, "c once more clears the faults");
        return;
    }
    v->clear_until = 0;
    ask_rig(v, RP_COMMAND_CLEAR, 0, 0.0f);
    view_say(v, "faults are cleared");
}

static void go_at(view *v, double times)
{
    if (may(v, RP_COMMAND_PACE)) {
        v->pace = CLAMP(v->pace * times, PACE_SLOWEST, PACE_FASTEST);
        ask_rig(v, RP_COMMAND_PACE, 0, (float)v->pace);
        view_say(v, "%g times as fast as the wall clock", v->pace);
    }
}

static void go_slower(view *v)
{
    go_at(v, 0.5);
}

static void go_faster(view *v)
{
    go_at(v, 2.0);
}

/* ---- keeping --------------------------------------------------------------------------------------- */

static bool take_mark(view *v, const char *answer)
{
    if (*answer) {
        rp_door_look_away(v->door);
        rp_door_mark(v->door, answer);
        v->history = rp_door_look(v->door);
        view_say(v, "mark '%s'", answer);
    }
    return true;
}

static void ask_mark(view *v)
{
    if (may(v, RP_COMMANDS)) {
        view_ask(v, take_mark, 0, "a word for the mark");
    }
}

static bool take_recording(view *v, const char *answer)
{
    g_autoptr(GError) error = NULL;
    g_autofree char *taken = NULL;
    if (!*answer) {
        return true;
    }
    rp_door_look_away(v->door);
    const bool begun = rp_door_record(v->door, answer, &taken, &error);
    v->history = rp_door_look(v->door);
    if (begun) {
        view_say(v, strcmp(taken, answer) == 0 ? "recording %s" : "recording %s, since there is a recording %s already",
                 taken, answer);
        g_free(v->recording);
        v->recording = g_steal_pointer(&taken);
    } else {
        view_say(v, "%s", error->message);
    }
    return begun;
}

static void toggle_recording(view *v)
{
    if (!may(v, RP_COMMANDS)) {
        return;
    }
    if (!v->recording) {
        view_ask(v, take_recording, 0, "a name for the recording");
        return;
    }
    rp_door_look_away(v->door);
    rp_door_record(v->door, NULL, NULL, NULL);
    v->history = rp_door_look(v->door);
    view_say(v, "recorded %s", v->recording);
    g_clear_pointer(&v->recording, g_free);
}

/* The new text with the parameters that a person has changed as they are now, frozen or not, or of those with the ones
 * that `only` names; NULL when none differs. What rules have set is not meant to stay. */
static char *text_with_params(const view *v, rp_rig *rig, const char *const *only, GString *changed)
{
    const uint32_t params = rp_image_count(v->image, RP_SECTION_PARAMS);
    const uint64_t newest = rp_history_end(v->history) - 1;
    g_autofree rp_place *place = g_new0(rp_place, params + 1);
    g_autofree const rp_place **which = g_new0(const rp_place *, params + 1);
    g_autofree double *number = g_new0(double, params + 1);
    uint32_t count = 0;
    for (uint32_t i = 0; i < params; i++) {
        const char *name = rp_image_text(v->image, RP_NAME_SLOT, i, 0);
        g_autofree char *text = g_strdup_printf(
            "%.6g", (double)rp_history_value(v->history, (uint32_t)rp_history_slot(v->history, i), newest));
        const double now = g_ascii_strtod(text, NULL);
        if (v->changed[i] && (!only || g_strv_contains(only, name)) && rp_rig_param_place(rig, name, &place[i]) &&
            fabs(now - place[i].value) > 1e-6 * fabs(now)) {
            which[count] = &place[i];
            number[count++] = now;
            g_string_append_printf(changed, "%s%s = %s %s (was %g)", changed->len ? ", " : "", name, text,
                                   rp_image_unit(v->image, RP_NAME_SLOT, i, 0), place[i].value);
        }
    }
    return count > 0 ? g_strdup(rp_edit_places(rig, which, number, count)) : NULL;
}

static void write_params(view *v, const char *const *only)
{
    g_autoptr(GString) changed = g_string_new(NULL);
    g_autoptr(GError) error = NULL;
    rp_rig *standing = v->file ? v->file : (rp_rig *)v->rig;
    g_autofree char *text = text_with_params(v, standing, only, changed);
    if (!text || !rewrite_file(v->path, standing->source, text, "watch", &error)) {
        view_say(v, "%s", error ? error->message : "nothing to write");
        return;
    }
    rp_rig *now = rp_rig_compile(v->path, text, strlen(text), rp_ports_catalog());
    rp_rig_free(v->file);
    v->file = now;
    view_say(v, "%s is written: %s", v->path, changed->str);
}

/* The first word that names no parameter that was changed; NULL: all do. */
static const char *not_changed(const view *v, char **words)
{
    for (char **word = words; *word; word++) {
        uint32_t i = 0;
        while (i < rp_image_count(v->image, RP_SECTION_PARAMS) &&
               !(v->changed[i] && strcmp(rp_image_text(v->image, RP_NAME_SLOT, i, 0), *word) == 0)) {
            i++;
        }
        if (i == rp_image_count(v->image, RP_SECTION_PARAMS)) {
            return *word;
        }
    }
    return NULL;
}

static bool take_write(view *v, const char *answer)
{
    static const char *const yes[] = {"y", "yes", "Y", NULL}, *const no[] = {"", "n", "no", "N", NULL};
    g_autofree char *spaced = g_strdelimit(g_strdup(answer), ",", ' ');
    g_auto(GStrv) words = g_regex_split_simple(" +", spaced, 0, 0);
    if (g_strv_contains(no, answer)) {
        view_say(v, "not written");
        return true;
    }
    if (g_strv_contains(yes, answer)) {
        write_params(v, NULL);
        return true;
    }
    const char *unknown = not_changed(v, words);
    if (unknown) {
        view_say(v, "'%s' is not among them; y writes all, n none", unknown);
        return false;
    }
    write_params(v, (const char *const *)words);
    return true;
}

static void ask_write(view *v)
{
    g_autoptr(GString) changed = g_string_new(NULL);
    if (!v->path) {
        view_say(v, "this is a recording: there is no rig file to write to");
        return;
    }
    g_autofree char *text = text_with_params(v, v->file ? v->file : (rp_rig *)v->rig, NULL, changed);
    if (text) {
        view_ask(v, take_write, 0, "write %s into %s? y, n, or the names", changed->str, v->path);
    } else {
        view_say(v, "you have changed no parameter that does not stand in %s as it is", v->path);
    }
}

static void toggle_help(view *v)
{
    v->help = !v->help;
}

static void leave(view *v)
{
    v->leaving = true;
}

/* ---- the table ------------------------------------------------------------------------------------- */

typedef struct watch_key {
    int key, also;
    const char *shown, *says;
    void (*run)(view *v);
} watch_key;

static const watch_key keys[] = {
    {' ', 0, "space", "freeze the picture, and go on", toggle_freeze},
    {KEY_LEFT, 0, "←", "one tick back", step_back},
    {KEY_RIGHT, 0, "→", "one tick on", step_on},
    {KEY_PPAGE, '[', "PgUp [", "a quarter back", scroll_back},
    {KEY_NPAGE, ']', "PgDn ]", "a quarter on", scroll_on},
    {KEY_HOME, '<', "Home <", "to the oldest that is kept", go_first},
    {KEY_END, '>', "End >", "to the newest, live again", go_last},
    {'n', 0, "n", "to the next event", next_event},
    {'p', 0, "p", "to the event before", previous_event},
    {'/', 0, "/", "jump to a time or a change", ask_jump},
    {'b', 0, "b", "back to where one was before that", jump_back},
    {'z', 0, "z", "closer in time", zoom_in},
    {'Z', 0, "Z", "farther in time", zoom_out},
    {'v', 0, "v", "closer in value", value_in},
    {'V', 0, "V", "farther in value", value_out},
    {'f', 0, "f", "scale fixed, or following", value_auto},
    {KEY_UP, 'k', "↑", "choose the line above", select_up},
    {KEY_DOWN, 'j', "↓", "choose the line below", select_down},
    {'g', 0, "g", "chart the chosen line, or not", toggle_series},
    {'\r', KEY_ENTER, "Enter", "type a value for the chosen", type_value},
    {'+', '=', "+", "the chosen value one step up", value_up},
    {'-', 0, "-", "the chosen value one step down", value_down},
    {'h', 0, "h", "actuator by hand, and back", toggle_hand},
    {'!', KEY_DC, "! Del", "everything to rest, and on", toggle_rest},
    {'c', 0, "c c", "clear faults, at the second press", clear_faults},
    {'{', 0, "{", "time goes half as fast", go_slower},
    {'}', 0, "}", "time goes twice as fast", go_faster},
    {'m', 0, "m", "put a mark with a word", ask_mark},
    {'r', 0, "r", "begin a recording, or end it", toggle_recording},
    {'w', 0, "w", "write parameters to the file", ask_write},
    {'?', 0, "?", "this page, and back", toggle_help},
    {'q', 0, "q", "leave; all goes to rest", leave},
};

/* The keys that matter now, by what is chosen: keys of the table, with a word each. */
static const char *hints_of(view *v)
{
    if (v->door->ending) {
        return "←→ tick  n p event  / jump  z Z time  ↑↓ choose  g chart  ? all keys  q leave";
    }
    if (v->frozen) {
        return "space go on  ←→ tick  n p event  / jump  z Z time  ! rest  ? all keys  q leave";
    }
    switch (view_selected(v)->kind) {
    case ITEM_PARAM:
        return "+ - change  Enter type  w write into file  space freeze  ! rest  ? all  q leave";
    case ITEM_ACTUATOR:
        return "h by hand, and back  + - drive  g chart  space freeze  ! rest  ? all  q leave";
    default:
        return "↑↓ choose  g chart  space freeze  m mark  r record  ! rest  ? all keys  q leave";
    }
}

void view_draw_hints(view *v, int row, int width)
{
    screen_fill(row, 0, width, INK_HEAD, hints_of(v));
}

void view_draw_help(void)
{
    show_help_head("All keys");
    for (size_t i = 0; i < G_N_ELEMENTS(keys); i++) {
        show_help_key(i, G_N_ELEMENTS(keys), keys[i].shown, keys[i].says);
    }
}

/* ---- typing ---------------------------------------------------------------------------------------- */

static void end_prompt(view *v)
{
    g_clear_pointer(&v->prompt.question, g_free);
}

static void prompt_key(view *v, int key)
{
    GString *answer = v->prompt.answer;
    if (key == '\r' || key == '\n' || key == KEY_ENTER) {
        g_autofree char *typed = g_strstrip(g_strdup(answer->str));
        if (v->prompt.take(v, typed)) {
            end_prompt(v);
        }
    } else if (key == 27) {
        end_prompt(v);
        view_say(v, "left as it was");
    } else if (key == KEY_BACKSPACE || key == 127 || key == 8) {
        if (answer->len > 0) {
            g_string_truncate(answer,
                              (gsize)(g_utf8_find_prev_char(answer->str, answer->str + answer->len) - answer->str));
        }
    } else if (key >= ' ' && key < 256 && answer->len < 200) {
        g_string_append_c(answer, (char)key);
    }
}

void view_key(view *v, int key)
{
    if (v->prompt.question) {
        prompt_key(v, key);
        return;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(keys); i++) {
        if (key == keys[i].key || (keys[i].also && key == keys[i].also)) {
            v->help = v->help && keys[i].run == toggle_help;
            keys[i].run(v);
            return;
        }
    }
    view_say(v, "this key does nothing here; ? lists all keys");
}
