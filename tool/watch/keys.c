/* The table of keys; the page and the line at the bottom come from it. */
#include "watch.h"

#include "tool/terminal/keys.h"

#include <curses.h>

static void toggle_help(watching *w)
{
    w->help = !w->help;
}

static void leave(watching *w)
{
    w->leaving = true;
}

/* ---- the table ------------------------------------------------------------------------------------- */

/* The states in which a key's hint is shown. */
enum { RECORDED = 1, FROZEN = 2, LIVE = 4, PARAM = 8, ACTUATOR = 16, ANY = 31 };

static const struct {
    KEY_FACE;
    void (*run)(watching *w);
} keys[] = {
    {' ', 0, "space", "freeze the picture, and go on", "space freeze, go on", LIVE | FROZEN, watch_toggle_freeze},
    {KEY_LEFT, 0, "←", "one tick back", NULL, 0, watch_step_back},
    {KEY_RIGHT, 0, "→", "one tick on", "←→ tick", FROZEN | RECORDED, watch_step_on},
    {KEY_PPAGE, '[', "PgUp [", "a quarter back", NULL, 0, watch_scroll_back},
    {KEY_NPAGE, ']', "PgDn ]", "a quarter on", NULL, 0, watch_scroll_on},
    {KEY_HOME, '<', "Home <", "to the oldest that is kept", NULL, 0, watch_go_first},
    {KEY_END, '>', "End >", "to the newest, live again", NULL, 0, watch_go_last},
    {'n', 0, "n", "to the next event", "n p event", FROZEN | RECORDED, watch_next_event},
    {'p', 0, "p", "to the event before", NULL, 0, watch_previous_event},
    {'/', 0, "/", "jump to a time or a change", "/ jump", FROZEN | RECORDED, watch_ask_jump},
    {'b', 0, "b", "back to where one was before that", NULL, 0, watch_jump_back},
    {'z', 0, "z", "closer in time", "z Z time", FROZEN | RECORDED, watch_zoom_in},
    {'Z', 0, "Z", "farther in time", NULL, 0, watch_zoom_out},
    {'v', 0, "v", "closer in value", NULL, 0, watch_value_in},
    {'V', 0, "V", "farther in value", NULL, 0, watch_value_out},
    {'f', 0, "f", "scale fixed, or following", NULL, 0, watch_value_auto},
    {KEY_UP, 'k', "↑", "choose the line above", "↑↓ choose", RECORDED | LIVE, watch_select_up},
    {KEY_DOWN, 'j', "↓", "choose the line below", NULL, 0, watch_select_down},
    {'g', 0, "g", "chart the chosen line, or not", "g chart", RECORDED | LIVE | ACTUATOR, watch_toggle_series},
    {'y', 0, "y", "why the chosen line is so, and back", "y why", RECORDED | FROZEN, watch_toggle_why},
    {'\r', KEY_ENTER, "Enter", "type a value for the chosen", "Enter type", PARAM, watch_type_value},
    {'+', '=', "+", "the chosen value one step up", "+ - change", PARAM | ACTUATOR, watch_value_up},
    {'-', 0, "-", "the chosen value one step down", NULL, 0, watch_value_down},
    {'h', 0, "h", "actuator by hand, and back", "h by hand, and back", ACTUATOR, watch_toggle_hand},
    {'!', KEY_DC, "! Del", "everything to rest, and on", "! rest", FROZEN | LIVE | PARAM | ACTUATOR, watch_toggle_rest},
    {'c', 0, "c c", "clear faults, at the second press", NULL, 0, watch_clear_faults},
    {'{', 0, "{", "time goes half as fast", NULL, 0, watch_go_slower},
    {'}', 0, "}", "time goes twice as fast", NULL, 0, watch_go_faster},
    {'m', 0, "m", "put a mark with a word", "m mark", LIVE | RECORDED, watch_ask_mark},
    {'M', 0, "M", "a stretch begins here; it ends here", "M stretch", RECORDED, watch_mark_stretch},
    {'N', 0, "N", "name the mark here anew", "N t x name, move, take out", RECORDED, watch_name_mark},
    {'t', 0, "t", "pick the mark here up, put it down", NULL, 0, watch_move_mark},
    {'x', 0, "x", "take the mark here out", NULL, 0, watch_take_out_mark},
    {'r', 0, "r", "begin a recording, or end it", "r record", LIVE, watch_toggle_recording},
    {'w', 0, "w", "write parameters to the file", "w write into file", PARAM, watch_ask_write},
    {'?', 0, "?", "this page, and back", "? all keys", ANY, toggle_help},
    {'q', 0, "q", "leave; all goes to rest", "q leave", ANY, leave},
};

static unsigned state_of(const watching *w)
{
    const view_item *is = w->view.item->len > 0 ? view_item_at(&w->view, w->view.selected) : NULL;
    return w->door->ending                   ? RECORDED
           : w->view.frozen                  ? FROZEN
           : is && is->kind == ITEM_PARAM    ? PARAM
           : is && is->kind == ITEM_ACTUATOR ? ACTUATOR
                                             : LIVE;
}

void watch_draw_hints(const watching *w, int row, int width)
{
    keys_draw_hints(KEY_TABLE(keys), state_of(w), row, width);
}

void watch_draw_help(void)
{
    keys_draw_page(KEY_TABLE(keys));
}

void watch_key(watching *w, int key)
{
    if (w->prompt.question) {
        if (!prompt_key(&w->prompt, key, w)) {
            watch_say(w, "left as it was");
        }
        return;
    }
    const size_t i = keys_find(KEY_TABLE(keys), key);
    if (i < G_N_ELEMENTS(keys)) {
        w->help = w->help && keys[i].run == toggle_help;
        keys[i].run(w);
    } else {
        watch_say(w, "this key does nothing here; ? lists all keys");
    }
}
