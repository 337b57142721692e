/* Tuning on the whole screen: the loop runs, its curves go by, gains change under the keys, tests at the press of one.
 */
#include "tune.h"

#include "tool/terminal/show.h"
#include "tool/watch/view.h"

#include "explain/describe.h"

#include <curses.h>
#include <math.h>
#include <string.h>

#define DRAW_MS      80
#define NOTE_US      8000000
#define TRIES_ROWS   8
#define SIDE_WIDTH   34
#define ROWS_LEAST   16
#define COLS_LEAST   80
#define KEYS_WIDTH   117 /* of all that is said of them */
#define FINE         1.1 /* of a gain, at a press */
#define PACE_SLOWEST 0.0625
#define PACE_FASTEST 64.0

/* The purpose of the line that is typed. */
typedef enum typed { TYPED_NOTHING, TYPED_GAIN, TYPED_STEP, TYPED_PUSH, TYPED_BACK } typed;

typedef struct tune_view {
    tuning *t;
    rp_door *door;
    rp_door_setup setup;
    rp_rig *rig;  /* with settings that are not the file's; NULL: they are */
    rp_rig *next; /* that it is to begin anew with; NULL: the one it has */
    show shown;
    view chart; /* what watch draws curves with */
    double gain[TUNE_VALUES];
    uint32_t chosen, disturbed;
    double step, push;
    double pace;  /* times as fast as the wall clock */
    bool stepped; /* the setpoint is off by `step` */
    typed typed;
    GString *answer;
    tune_try test; /* that goes on */
    bool testing, leaving, stopped, help;
    bool renews;       /* the rig is to begin anew */
    bool lost;         /* it could not */
    uint64_t begin_us; /* of the test */
    guint seen;        /* occurrences before it */
    char *note;
    gint64 note_until;
} tune_view;

G_GNUC_PRINTF(2, 3) static void say(tune_view *v, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_free(v->note);
    v->note = g_strdup_vprintf(format, arguments);
    v->note_until = g_get_monotonic_time() + NOTE_US;
    va_end(arguments);
}

static void ask(tune_view *v, rp_command_kind wish, uint16_t which, double value)
{
    const rp_command c = {(uint8_t)wish, RP_BY_PERSON, which, (float)value, 0.0f};
    rp_door_ask(v->door, &c);
}

/* ---- gains ------------------------------------------------------------------------------------------- */

static const rp_image_param *range_of(const tune_view *v, uint32_t gain)
{
    return (const rp_image_param *)rp_image_at(v->t->image, RP_SECTION_PARAMS) + v->t->is->gain[gain];
}

/* Gains change at once; with other settings the rig begins anew. False, which has been said, when it cannot. */
static bool set_gains(tune_view *v, const double *gain)
{
    g_autoptr(GError) error = NULL;
    if (!tune_same_settings(v->t, gain, v->gain)) {
        rp_rig *rig = tune_rig(v->t, gain, &error);
        if (!rig) {
            say(v, "%s", error->message);
            return false;
        }
        rp_rig_free(v->next);
        v->next = rig;
        v->renews = true;
    }
    for (uint32_t i = 0; i < v->t->gains; i++) {
        v->test.voided |= v->testing && v->gain[i] != gain[i];
        ask(v, RP_COMMAND_SET, v->t->is->gain[i], gain[i]);
    }
    memcpy(v->gain, gain, sizeof v->gain);
    return true;
}

/* One that is 0 begins at a hundredth of the first. */
static void turn_gain(tune_view *v, double factor)
{
    double gain[TUNE_VALUES];
    const rp_image_param *p = range_of(v, v->chosen);
    memcpy(gain, v->gain, sizeof gain);
    double *now = &gain[v->chosen];
    if (*now == 0.0) {
        *now = factor > 1.0 ? (v->gain[0] > 0.0 ? v->gain[0] / 100.0 : 0.01) : 0.0;
    } else {
        *now = CLAMP(*now * factor, (double)p->low, (double)p->high);
    }
    set_gains(v, gain);
}

/* ---- tests ------------------------------------------------------------------------------------------- */

static void begin_test(tune_view *v, tune_test test, double size, uint32_t disturbance)
{
    const uint64_t end = rp_history_end(v->chart.history);
    v->test = (tune_try){.test = test, .size = size, .disturbance = disturbance};
    memcpy(v->test.gain, v->gain, sizeof v->test.gain);
    v->begin_us = rp_history_time_us(v->chart.history, end - 1);
    v->seen = rp_history_occurrences(v->chart.history)->len;
    v->testing = true;
}

static void begin_step(tune_view *v)
{
    g_autofree char *why = NULL;
    const double size = v->stepped ? -v->step : v->step;
    if (!tune_step_fits(v->t, tune_setpoint(v->t, v->chart.history), size, &why)) {
        say(v, "%s", why);
        v->step = v->stepped ? v->step : 0.0; /* so that it is asked again */
        return;
    }
    begin_test(v, TUNE_STEP, size, 0);
    v->stepped = !v->stepped;
    ask(v, RP_COMMAND_SET, v->t->is->trim, v->stepped ? v->step : 0.0);
}

static void begin_push(tune_view *v)
{
    begin_test(v, TUNE_PUSH, v->push, 0);
    ask(v, RP_COMMAND_SET, v->t->is->push, v->push);
}

static void begin_disturbance(tune_view *v)
{
    const uint32_t count = tune_disturbances(v->t);
    if (count == 0) {
        say(v, "the hook-up states no disturbance behind 0 s");
        return;
    }
    const uint32_t which = tune_disturbance(v->t, v->disturbed++ % count);
    begin_test(v, TUNE_DISTURB, 0.0, which);
    ask(v, RP_COMMAND_DISTURB, (uint16_t)which, 0.0);
}

/* The event since the test began that ends it; NULL: none. */
static const char *broken_by(const tune_view *v)
{
    const GPtrArray *all = rp_history_occurrences(v->chart.history);
    for (guint i = v->seen; i < all->len; i++) {
        const rp_occurrence *o = all->pdata[i];
        const bool cut = o->kind == RP_EVENT_CUT_OUT && strcmp(o->of, v->t->name) == 0;
        if (cut || o->kind == RP_EVENT_FAULT || o->kind == RP_EVENT_STOPPED || o->kind == RP_EVENT_STALLED) {
            return o->says;
        }
    }
    return NULL;
}

static void end_test(tune_view *v, const char *broken)
{
    rp_history *h = v->chart.history;
    const uint64_t tick = v->t->image->tick_us, before = (uint64_t)(v->t->over * 1e6);
    const uint64_t from = rp_history_find(h, v->begin_us > before ? v->begin_us - before : 0);
    const uint64_t begin = rp_history_find(h, v->begin_us + tick);
    v->testing = false;
    v->test.stopped = g_strdup(broken ? broken : v->test.voided ? "the gains were changed while it went on" : NULL);
    v->test.voided = v->test.voided && !broken;
    v->test.rows = rp_response_rows(h, v->t->loop, from, rp_history_end(h));
    v->test.before = (uint32_t)(begin - from);
    if (v->test.test == TUNE_PUSH) {
        ask(v, RP_COMMAND_SET, v->t->is->push, 0.0);
    }
    const guint number = tune_add(v->t, &v->test);
    if (broken) {
        ask(v, RP_COMMAND_STOP, 0, 0.0);
        v->stopped = true;
        say(v, "try %u is broken off, everything rests: %s; c goes on, a begins anew", number, broken);
    } else if (v->test.voided) {
        say(v, "try %u does not count: the gains were changed while it went on", number);
    } else {
        say(v, "try %u is done", number);
    }
}

/* As if it had not been begun. */
static void cancel_test(tune_view *v)
{
    v->testing = false;
    if (v->test.test == TUNE_PUSH) {
        ask(v, RP_COMMAND_SET, v->t->is->push, 0.0);
    } else if (v->test.test == TUNE_STEP) {
        ask(v, RP_COMMAND_SET, v->t->is->trim, 0.0);
        v->stepped = false;
    }
    say(v, "the test is cancelled");
}

static void follow_test(tune_view *v)
{
    const uint64_t end = rp_history_end(v->chart.history);
    if (!v->testing || end == 0) {
        return;
    }
    const char *broken = broken_by(v);
    const double passed = ((double)rp_history_time_us(v->chart.history, end - 1) - (double)v->begin_us) / 1e6;
    if (broken || passed >= v->t->over) {
        end_test(v, broken);
    }
}

/* ---- keys -------------------------------------------------------------------------------------------- */

static void type_for(tune_view *v, typed what)
{
    v->typed = what;
    g_string_truncate(v->answer, 0);
}

static bool go_back(tune_view *v, const char *answer)
{
    char *end;
    const guint64 number = g_ascii_strtoull(answer, &end, 10);
    if (*end || end == answer || number < 1 || number > v->t->tries->len) {
        say(v, "'%s': the tries go from 1 to %u", answer, v->t->tries->len);
        return false;
    }
    if (set_gains(v, tune_try_at(v->t, (guint)number - 1)->gain)) {
        say(v, "the gains of try %u", (guint)number);
    }
    return true;
}

static bool take_gain(tune_view *v, const char *answer)
{
    double gain[TUNE_VALUES];
    g_autofree char *why = NULL;
    memcpy(gain, v->gain, sizeof gain);
    g_autofree char *text =
        g_ascii_isalpha(*answer) ? g_strdup(answer) : g_strdup_printf("%s %s", tune_gain_word(v->t, v->chosen), answer);
    if (!tune_parse_gains(v->t, text, gain, &why)) {
        say(v, "%s", why);
        return false;
    }
    return set_gains(v, gain);
}

static bool take_amount(tune_view *v, const char *answer, bool step)
{
    g_autofree char *why = NULL;
    if (!tune_parse_amount(v->t, step ? TUNE_STEP : TUNE_PUSH, answer, step ? &v->step : &v->push, &why)) {
        say(v, "%s", why);
        return false;
    }
    if (step) {
        begin_step(v);
    } else {
        begin_push(v);
    }
    return !step || v->testing;
}

/* A refused entry stays in the prompt, so that nothing that is typed next is taken for a key. */
static void take_answer(tune_view *v)
{
    const char *answer = v->answer->str;
    const bool taken = v->typed == TYPED_GAIN   ? take_gain(v, answer)
                       : v->typed == TYPED_BACK ? go_back(v, answer)
                                                : take_amount(v, answer, v->typed == TYPED_STEP);
    v->typed = taken ? TYPED_NOTHING : v->typed;
}

static void take_letter(tune_view *v, int key)
{
    if (key == 27) {
        v->typed = TYPED_NOTHING;
    } else if (key == '\n' || key == '\r' || key == KEY_ENTER) {
        take_answer(v);
    } else if ((key == KEY_BACKSPACE || key == 127 || key == 8) && v->answer->len > 0) {
        g_string_truncate(v->answer, v->answer->len - 1);
    } else if (key >= 32 && key < 127 && v->answer->len < 40) {
        g_string_append_c(v->answer, (char)key);
    }
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
    g_autofree char *why = NULL;
    const guint fell = fell_with(v);
    if (fell > 0 && !anyway) {
        say(v, "try %u was broken off with these gains; W writes them all the same", fell);
        return;
    }
    if (tune_save(v->t, v->gain, &why)) {
        g_autofree char *gains = tune_gains_text(v->t, v->gain);
        say(v, "%s is written: %s", v->t->path, gains);
    } else {
        say(v, "%s", why);
    }
}

static void test_key(tune_view *v, int key)
{
    const uint64_t last = rp_history_end(v->chart.history) - 1;
    const uint32_t phase = (uint32_t)rp_history_slot(v->chart.history, v->t->is->first);
    if (!v->testing && rp_history_value(v->chart.history, phase, last) != (float)RP_LOOP_ENGAGED) {
        say(v, "the loop does not drive; c lets what has cut out wait again");
    } else if (v->testing || v->stopped) {
        say(v, v->testing ? "a test goes on" : "everything rests; c goes on");
    } else if (key == 'x') {
        begin_disturbance(v);
    } else if (key == 's' && v->step != 0.0) {
        begin_step(v);
    } else if (key == 'p' && v->push != 0.0) {
        begin_push(v);
    } else if (key == 'S' && v->stepped) {
        say(v, "the setpoint is off by the last step; s takes it back first");
    } else {
        type_for(v, key == 's' || key == 'S' ? TYPED_STEP : TYPED_PUSH);
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
    turn_gain(v, key == KEY_RIGHT || key == '+' ? FINE : 1.0 / FINE);
}

static void type_key(tune_view *v, int key)
{
    type_for(v, key == '=' ? TYPED_GAIN : TYPED_BACK);
}

static void clear_key(tune_view *v, int key)
{
    (void)key;
    ask(v, RP_COMMAND_CLEAR, 0, 0.0);
    ask(v, RP_COMMAND_RESUME, 0, 0.0);
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
        cancel_test(v);
    }
}

static void pace_key(tune_view *v, int key)
{
    v->pace = CLAMP(v->pace * (key == '}' ? 2.0 : 0.5), PACE_SLOWEST, PACE_FASTEST);
    ask(v, RP_COMMAND_PACE, 0, v->pace);
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
    int key, also;
    const char *shown, *says; /* of two keys together: at the first */
    void (*run)(tune_view *v, int key);
} keys[] = {
    {KEY_UP, KEY_DOWN, "↑ ↓", "choose a gain", choose_key},
    {KEY_RIGHT, '+', "→ +", "a tenth more of the chosen gain, at once", turn_key},
    {KEY_LEFT, '-', "← -", "a tenth less", turn_key},
    {'=', 0, "=", "type the gain, or several, or settings: kp 8, filter 20 ms", type_key},
    {'s', 'S', "s S", "test: step the setpoint, then s back; S asks by how much", test_key},
    {'p', 'P', "p P", "test: push the output; P asks by how much", test_key},
    {'x', 0, "x", "test: the next disturbance that the hook-up states", test_key},
    {27, 0, "Esc", "cancel the test, or what is being typed", cancel_key},
    {'b', 0, "b", "back to the gains of a try", type_key},
    {'c', 0, "c", "clear faults, and go on after a fall", clear_key},
    {'a', 0, "a", "the mechanism begins anew; gains and tries stay", anew_key},
    {'{', '}', "{ }", "time goes half, or twice, as fast", pace_key},
    {'w', 'W', "w W", "write the gains into the rig file; W: though they fell", save_key},
    {'?', 0, "?", "this page, and back", help_key},
    {'q', 0, "q", "leave; everything goes to rest", leave_key},
};

/* The rows of the table of tries. */
static const struct {
    ink with;
    const char *word, *says;
} inks[] = {
    {INK_PLAIN, "plain", "a row whose test has settled"},
    {INK_WARN, "yellow", "it has not, or nobody could tell: its verdict says why"},
    {INK_BAD, "red", "the test was broken off, or does not count"},
};

static void take_key(tune_view *v, int key)
{
    if (v->typed != TYPED_NOTHING) {
        take_letter(v, key);
        return;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(keys); i++) {
        if (key == keys[i].key || (keys[i].also && key == keys[i].also)) {
            v->help = v->help && keys[i].run == help_key;
            keys[i].run(v, key);
            return;
        }
    }
    say(v, "this key does nothing here; ? lists all keys");
}

/* ---- drawing ----------------------------------------------------------------------------------------- */

/* The curves: setpoint and measured above, the output and its terms below. */
static void choose_curves(tune_view *v)
{
    const rp_image_loop *l = v->t->is;
    const rp_image_claim *claim = rp_image_at(v->t->image, RP_SECTION_CLAIMS);
    const uint32_t slots[] = {
        l->first + RP_TERM_TARGET, l->measured,          rp_image_actuator_slot(v->t->image, claim[l->claim].actuator),
        l->first + RP_TERM_P,      l->first + RP_TERM_I, l->first + RP_TERM_D};
    v->chart.item = g_array_new(FALSE, FALSE, sizeof(view_item));
    for (uint32_t i = 0; i < G_N_ELEMENTS(slots); i++) {
        const int32_t column = rp_history_slot(v->chart.history, slots[i]);
        if (column >= 0 && (i < 3 || l->terms > RP_TERM_D)) {
            const view_item item = {ITEM_SIGNAL, slots[i], (uint32_t)column, (int)i, i < 2 ? 0 : i == 2 ? 1 : 2};
            g_array_append_val(v->chart.item, item);
        }
    }
}

static void put_slot(const tune_view *v, int row, int column, const char *name, uint32_t slot, ink with)
{
    const int32_t at = rp_history_slot(v->chart.history, slot);
    const uint64_t last = rp_history_end(v->chart.history) - 1;
    g_autoptr(GString) text = g_string_new(NULL);
    if (at < 0) {
        return;
    }
    const rp_quality quality = rp_history_quality(v->chart.history, (uint32_t)at, last);
    if (rp_usable(quality)) {
        rp_tell_value(v->t->image, slot, rp_history_value(v->chart.history, (uint32_t)at, last), text);
    } else {
        g_string_assign(text, rp_quality_word(quality));
    }
    screen_put(row, column, 12, INK_DIM, name);
    screen_put(row, column + 12, SIDE_WIDTH - 13, with, text->str);
}

static void draw_side(const tune_view *v, int row, int column)
{
    const rp_image_loop *l = v->t->is;
    g_autofree char *settings = tune_settings_text(v->t, v->gain);
    for (uint32_t i = 0; i < v->t->gains; i++, row++) {
        screen_printf(row, column, SIDE_WIDTH, i == v->chosen ? INK_HEAD : INK_PLAIN, " %-9s %10.4g %s ",
                      tune_gain_word(v->t, i), v->gain[i], tune_gain_unit(v->t, i));
    }
    screen_put(row++, column + 1, SIDE_WIDTH - 1, INK_STRONG, settings);
    put_slot(v, row++, column, "loop", l->first, INK_STRONG);
    put_slot(v, row++, column, "setpoint", l->first + RP_TERM_TARGET, INK_PLAIN);
    put_slot(v, row++, column, "measured", l->measured, INK_PLAIN);
    put_slot(v, row++, column, "error", l->first + RP_TERM_ERROR, INK_PLAIN);
    if (l->terms > RP_TERM_SATURATED) {
        put_slot(v, row++, column, "P", l->first + RP_TERM_P, INK_PLAIN);
        put_slot(v, row++, column, "I", l->first + RP_TERM_I, INK_PLAIN);
        put_slot(v, row++, column, "D", l->first + RP_TERM_D, INK_PLAIN);
        put_slot(v, row++, column, "asked", l->first + RP_TERM_ASKED, INK_PLAIN);
        put_slot(v, row++, column, "saturated", l->first + RP_TERM_SATURATED, INK_PLAIN);
    }
    put_slot(v, row, column, "output", l->first + RP_TERM_OUTPUT, INK_PLAIN);
}

/* The newest below. */
static void draw_tries(const tune_view *v, int row, int rows)
{
    const int width = screen_columns();
    g_autoptr(GPtrArray) lines = tune_table(v->t, 1);
    screen_put(row, 0, width, INK_DIM, lines->pdata[0]);
    const guint all = v->t->tries->len, first = all > (guint)(rows - 1) ? all - (guint)(rows - 1) : 0;
    for (guint i = first; i < all; i++) {
        const tune_try *one = tune_try_at(v->t, i);
        const size_t says = one->stopped ? 2 : one->response.verdict == RP_VERDICT_SETTLED ? 0 : 1;
        screen_put(row + 1 + (int)(i - first), 0, width, inks[says].with, lines->pdata[i + 1]);
    }
    if (all == 0) {
        screen_put(row + 1, 1, width, INK_DIM, "no test yet: s steps the setpoint, p pushes the output, x disturbs");
    }
}

static void draw_bottom(const tune_view *v, int row)
{
    static const char *const questions[] = {[TYPED_GAIN] = "the gain, or several (kp 8, ki 0.1)",
                                            [TYPED_STEP] = "step the setpoint by",
                                            [TYPED_PUSH] = "push the output by",
                                            [TYPED_BACK] = "back to the gains of try"};
    const bool noted = v->note && g_get_monotonic_time() < v->note_until;
    if (v->typed != TYPED_NOTHING) {
        g_autofree char *asks = g_strdup_printf("%s: %s_", questions[v->typed], v->answer->str);
        const int width = (int)g_utf8_strlen(asks, -1);
        screen_put(row - 1, 1, screen_columns(), INK_STRONG, asks);
        screen_put(row - 1, width + 3, MAX(screen_columns() - width - 3, 0), INK_WARN, noted ? v->note : "");
    } else if (v->testing) {
        const uint64_t last = rp_history_end(v->chart.history) - 1;
        g_autofree char *test = tune_test_text(v->t, &v->test);
        screen_printf(row - 1, 1, screen_columns(), INK_GOOD, "test: %s, %.1f of %.4g s; Esc cancels it", test,
                      ((double)rp_history_time_us(v->chart.history, last) - (double)v->begin_us) / 1e6, v->t->over);
    } else if (noted) {
        screen_put(row - 1, 1, screen_columns(), INK_WARN, v->note);
    }
    screen_fill(row, 0, screen_columns(), INK_HEAD,
                screen_columns() > KEYS_WIDTH
                    ? " ↑↓ gain  ←→ less, more  = type  s step  p push  x disturb  b back to a try  a anew  w write  c "
                      "clear  ? all  q leave"
                    : " ↑↓←→ gain = type s step p push x disturb b back a anew c clear ? all q leave");
}

static void draw_help(void)
{
    const size_t count = G_N_ELEMENTS(keys) + G_N_ELEMENTS(inks);
    show_help_head("All keys, and the colours of the tries");
    for (size_t i = 0; i < count; i++) {
        const size_t k = i < G_N_ELEMENTS(keys) ? 0 : i - G_N_ELEMENTS(keys);
        const bool key = i < G_N_ELEMENTS(keys);
        show_help_key(i, count, key ? keys[i].shown : inks[k].word, key ? keys[i].says : inks[k].says);
    }
}

static void draw(tune_view *v)
{
    const int rows = screen_rows(), width = screen_columns(), tries = MIN(TRIES_ROWS, rows / 3);
    screen_clear();
    if (v->help) {
        draw_help();
        return;
    }
    if (rows < ROWS_LEAST || width < COLS_LEAST || rp_history_end(v->chart.history) == 0) {
        screen_put(0, 0, width, INK_PLAIN, rows < ROWS_LEAST || width < COLS_LEAST ? "too small; q leaves" : "begins");
        return;
    }
    v->chart.row = rp_history_end(v->chart.history) - 1;
    v->chart.right_us = rp_history_time_us(v->chart.history, v->chart.row);
    g_autofree char *head =
        g_strdup_printf(" tune %s of %s   %.1f s   looks at a test for %.4g s   pace %g ({ })%s", v->t->name,
                        rp_image_text(v->t->image, RP_NAME_RIG, 0, 0), (double)v->chart.right_us / 1e6, v->t->over,
                        v->pace, v->stopped ? "   EVERYTHING RESTS" : "");
    screen_fill(0, 0, width, INK_HEAD, head);
    view_draw_chart(&v->chart, 1, 0, rows - tries - 4, width - SIDE_WIDTH - 1);
    draw_side(v, 2, width - SIDE_WIDTH);
    draw_tries(v, rows - tries - 2, tries);
    draw_bottom(v, rows - 1);
}

/* ---- the loop ---------------------------------------------------------------------------------------- */

static void show_look(void *self)
{
    tune_view *v = self;
    v->chart.history = rp_door_look(v->door);
}

static void show_look_away(void *self)
{
    rp_door_look_away(((tune_view *)self)->door);
}

/* The rig from its beginning, with the gains and settings as they are; the tries stay. */
static void begin_anew(tune_view *v)
{
    g_autoptr(GError) error = NULL;
    rp_door_result result;
    rp_door_stop(v->door);
    rp_door_end(v->door, &result);
    g_free(result.complaint);
    v->renews = v->testing = v->stepped = v->stopped = false;
    v->disturbed = 0;
    if (v->next) {
        rp_rig_free(v->rig);
        v->setup.rig = v->rig = v->next;
        v->next = NULL;
    }
    v->door = v->shown.door = v->chart.door = rp_door_open(&v->setup, &error);
    v->lost = !v->door;
    if (v->door) {
        v->chart.history = rp_door_look(v->door);
        rp_door_look_away(v->door);
        set_gains(v, v->gain);
        ask(v, RP_COMMAND_PACE, 0, v->pace);
        say(v, "the rig begins anew");
    }
}

/* Asked between two looks, when nobody holds the history. */
static bool show_over(void *self)
{
    tune_view *v = self;
    if (v->renews) {
        begin_anew(v);
    }
    return v->leaving || v->lost || rp_door_over(v->door);
}

static void show_draw(void *self)
{
    follow_test(self);
    draw(self);
}

static void show_key(void *self, int key)
{
    tune_view *v = self;
    if (rp_history_end(v->chart.history) > 0 || key == 'q') {
        take_key(v, key);
    }
}

int tune_by_keys(tuning *t)
{
    g_autoptr(GError) error = NULL;
    const rp_door_setup setup = {.rig = t->file, .seed = t->seed, .history = true, .on_word = true, .pace = t->pace};
    rp_door_result result;
    rp_door *s = rp_door_open(&setup, &error);
    if (!s) {
        return command_refuse(t->self, "%s", error->message);
    }
    tune_view v = {
        .t = t, .door = s, .setup = setup, .answer = g_string_new(NULL), .pace = t->pace > 0.0 ? t->pace : 1.0};
    v.chart = (view){
        .rig = t->file, .image = t->image, .door = s, .history = rp_door_look(s), .span = 1.2 * t->over, .close = true};
    choose_curves(&v);
    rp_door_look_away(s);
    tune_file_gains(t, v.gain);
    const bool shown = screen_begin();
    if (shown) {
        v.shown = (show){&v, s, DRAW_MS, show_look, show_look_away, show_over, show_draw, show_key};
        show_run(&v.shown);
        screen_end();
    }
    if (v.lost) {
        result = (rp_door_result){.fault = RP_E_PORT};
    } else {
        rp_door_stop(v.door);
        rp_door_end(v.door, &result);
    }
    if (v.testing) {
        g_free(v.test.stopped);
    }
    rp_rig_free(v.rig);
    rp_rig_free(v.next);
    g_array_unref(v.chart.item);
    g_string_free(v.answer, TRUE);
    g_free(v.note);
    g_free(result.complaint);
    if (!shown) {
        return command_refuse(t->self, "this terminal cannot be written on; use --step, --push or --disturb");
    }
    if (t->tries->len > 0) {
        tune_print(t);
    }
    printf("left; everything is at rest\n");
    return result.fault == RP_OK ? EXIT_DONE : EXIT_FAULT;
}
