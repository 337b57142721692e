/* The table of keys, and what each does. */
#include "view.h"

#include "tool/terminal/keys.h"
#include "tool/terminal/screen.h"

#include <curses.h>
#include <string.h>

#define FINE         1.1 /* of a gain, at a press */
#define PACE_SLOWEST 0.0625
#define PACE_FASTEST 64.0

static bool go_back(void *self, const char *answer)
{
    tune_view *v = self;
    char *end;
    const guint64 number = g_ascii_strtoull(answer, &end, 10);
    if (*end || end == answer || number < 1 || number > v->t->tries->len) {
        tune_say(v, "'%s': the tries go from 1 to %u", answer, v->t->tries->len);
        return false;
    }
    if (tune_set_gains(v, tune_try_at(v->t, (guint)number - 1)->gain)) {
        tune_say(v, "the gains of try %u", (guint)number);
    }
    return true;
}

static bool take_gain(void *self, const char *answer)
{
    tune_view *v = self;
    double gain[TUNE_VALUES];
    g_autofree char *why = NULL;
    memcpy(gain, v->gain, sizeof gain);
    g_autofree char *text =
        g_ascii_isalpha(*answer) ? g_strdup(answer) : g_strdup_printf("%s %s", tune_gain_word(v->t, v->chosen), answer);
    if (!tune_parse_gains(v->t, text, gain, &why)) {
        tune_say(v, "%s", why);
        return false;
    }
    return tune_set_gains(v, gain);
}

static bool take_amount(tune_view *v, const char *answer, bool step)
{
    g_autofree char *why = NULL;
    if (!tune_parse_amount(v->t, step ? TUNE_STEP : TUNE_PUSH, answer, step ? &v->step : &v->push, &why)) {
        tune_say(v, "%s", why);
        return false;
    }
    if (step) {
        tune_begin_step(v);
    } else {
        tune_begin_push(v);
    }
    return !step || v->testing;
}

static bool take_step(void *self, const char *answer)
{
    return take_amount(self, answer, true);
}

static bool take_push(void *self, const char *answer)
{
    return take_amount(self, answer, false);
}

/* The newest try with the gains as they are that was broken off; 0: none. */
static guint fell_with(const tune_view *v)
{
    for (guint i = v->t->tries->len; i-- > 0;) {
        const tune_try *one = tune_try_at(v->t, i);
        if (memcmp(one->gain, v->gain, (v->t->gains + v->t->settings) * sizeof *one->gain) == 0 && !one->voided) {
            return one->stopped ? i + 1 : 0;
        }
    }
    return 0;
}

static void save(tune_view *v, bool anyway)
{
    g_autofree char *said = NULL;
    const guint fell = fell_with(v);
    if (fell > 0 && !anyway) {
        tune_say(v, "try %u was broken off with these gains; W writes them all the same", fell);
        return;
    }
    tune_save(v->t, v->gain, &said);
    tune_say(v, "%s", said);
}

static void test_key(tune_view *v, int key)
{
    const uint64_t last = rgp_history_end(v->chart.history) - 1;
    const uint32_t phase = (uint32_t)rgp_history_slot(v->chart.history, v->t->is->first);
    if (!v->testing && rgp_history_value(v->chart.history, phase, last) != (float)RGP_LOOP_ENGAGED) {
        tune_say(v, "the loop does not drive; c lets what has cut out wait again");
    } else if (v->testing || v->stopped) {
        tune_say(v, v->testing ? "a test goes on" : "everything rests; c goes on");
    } else if (key == 'x') {
        tune_begin_disturbance(v);
    } else if (key == 's' && v->step != 0.0) {
        tune_begin_step(v);
    } else if (key == 'p' && v->push != 0.0) {
        tune_begin_push(v);
    } else if (key == 'S' && v->stepped) {
        tune_say(v, "the setpoint is off by the last step; s takes it back first");
    } else {
        const bool step = key == 's' || key == 'S';
        prompt_ask(&v->prompt, step ? take_step : take_push, 0, "%s by",
                   step ? "step the setpoint" : "push the output");
    }
}

static void choose_key(tune_view *v, int key)
{
    if (key == KEY_UP) {
        v->chosen -= v->chosen > 0;
    } else {
        v->chosen += v->chosen + 1 < v->t->gains;
    }
}

static void turn_key(tune_view *v, int key)
{
    tune_turn_gain(v, key == KEY_RIGHT || key == '+' ? FINE : 1.0 / FINE);
}

static void type_key(tune_view *v, int key)
{
    if (key == '=') {
        prompt_ask(&v->prompt, take_gain, 0, "the gain, or several (kp 8, ki 0.1)");
    } else {
        prompt_ask(&v->prompt, go_back, 0, "back to the gains of try");
    }
}

/* The key that has offered gains takes them. */
static void offer_key(tune_view *v, int key)
{
    if (v->testing) {
        tune_say(v, "a test goes on");
    } else if (v->offered) {
        tune_take_offer(v);
    } else if (key == 'y') {
        tune_offer_advice(v);
    } else {
        tune_offer_model(v);
    }
}

static void clear_key(tune_view *v, int key)
{
    (void)key;
    tune_ask(v, RGP_COMMAND_CLEAR, 0, 0.0);
    tune_ask(v, RGP_COMMAND_RESUME, 0, 0.0);
    v->stopped = false;
}

static void anew_key(tune_view *v, int key)
{
    (void)key;
    v->renews = true;
}

static void cancel_key(tune_view *v, int key)
{
    (void)key;
    if (v->testing) {
        tune_cancel_test(v);
    }
}

static void pace_key(tune_view *v, int key)
{
    v->pace = CLAMP(v->pace * (key == '}' ? 2.0 : 0.5), PACE_SLOWEST, PACE_FASTEST);
    tune_ask(v, RGP_COMMAND_PACE, 0, v->pace);
}

static void save_key(tune_view *v, int key)
{
    save(v, key == 'W');
}

static void help_key(tune_view *v, int key)
{
    (void)key;
    v->help = !v->help;
}

static void leave_key(tune_view *v, int key)
{
    (void)key;
    v->leaving = true;
}

static const struct {
    KEY_FACE; /* of two keys together `says` stands at the first */
    void (*run)(tune_view *v, int key);
} keys[] = {
    {KEY_UP, KEY_DOWN, "↑ ↓", "choose a gain", "↑↓ gain", 1, choose_key},
    {KEY_RIGHT, '+', "→ +", "a tenth more of the chosen gain, at once", "←→ less, more", 1, turn_key},
    {KEY_LEFT, '-', "← -", "a tenth less", NULL, 0, turn_key},
    {'=', 0, "=", "type the gain, or several, or settings: kp 8, filter 20 ms", "= type", 1, type_key},
    {'s', 'S', "s S", "test: step the setpoint, then s back; S asks by how much", "s step", 1, test_key},
    {'p', 'P', "p P", "test: push the output; P asks by how much", "p push", 1, test_key},
    {'x', 0, "x", "test: the next disturbance that the hook-up states", "x disturb", 1, test_key},
    {27, 0, "Esc", "cancel the test, or what is being typed", NULL, 0, cancel_key},
    {'m', 0, "m", "gains from a model of the newest test; m again takes them", "m model", 1, offer_key},
    {'y', 0, "y", "what is the matter in the newest try; y again takes what it would try next", "y advice", 1,
     offer_key},
    {'b', 0, "b", "back to the gains of a try", "b back to a try", 1, type_key},
    {'c', 0, "c", "clear faults, and go on after a fall", "c clear", 1, clear_key},
    {'a', 0, "a", "the mechanism begins anew; gains and tries stay", "a anew", 1, anew_key},
    {'{', '}', "{ }", "time goes half, or twice, as fast", NULL, 0, pace_key},
    {'w', 'W', "w W", "write the gains into the rig file; W: though they fell", "w write", 1, save_key},
    {'?', 0, "?", "this page, and back", "? all keys", 1, help_key},
    {'q', 0, "q", "leave; everything goes to rest", "q leave", 1, leave_key},
};

const tune_ink tune_inks[TUNE_INKS] = {
    {INK_PLAIN, "plain", "a row whose test has settled"},
    {INK_WARN, "yellow", "it has not, or nobody could tell: its verdict says why"},
    {INK_BAD, "red", "the test was broken off, or does not count"},
};

void tune_draw_help(void)
{
    const size_t count = G_N_ELEMENTS(keys) + TUNE_INKS;
    keys_draw_head("All keys, and the colours of the tries");
    for (size_t i = 0; i < count; i++) {
        const bool key = i < G_N_ELEMENTS(keys);
        const tune_ink *with = &tune_inks[key ? 0 : i - G_N_ELEMENTS(keys)];
        keys_draw_line(i, count, key ? keys[i].shown : with->word, key ? keys[i].says : with->says);
    }
}

void tune_draw_hints(int row, int width)
{
    keys_draw_hints(KEY_TABLE(keys), 1, row, width);
}

void tune_key(tune_view *v, int key)
{
    if (v->prompt.question) {
        prompt_key(&v->prompt, key, v);
        return;
    }
    const size_t i = keys_find(KEY_TABLE(keys), key);
    if (i < G_N_ELEMENTS(keys)) {
        v->help = v->help && keys[i].run == help_key;
        v->offered = v->offered && key == v->offers;
        keys[i].run(v, key);
    } else {
        tune_say(v, "this key does nothing here; ? lists all keys");
    }
}
