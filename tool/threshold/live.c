/* Idle time first, then events one by one: each catch is shown as it comes, refused when it cannot be one, and can be
 * taken back. Orders, typed or from a script:
 *
 *   idle 2 min       nothing is to happen for so long
 *   event 20         waits for so many; 'event 20 within 10 min': no longer than that
 *   wait 30 s        lets it run
 *   now              what has just been was one, though it was not caught
 *   back             the last one was none; of idle time: take it anew
 *   list             what there is
 *   done, quit       goes on to the threshold; leaves, and keeps the recording
 */
#include "live.h"
#include "catcher.h"

#include "explain/describe.h"
#include "runtime/door.h"
#include "runtime/interrupt.h"
#include "runtime/recording.h"

#include <errno.h>
#include <math.h>
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include <readline/history.h>
#include <readline/readline.h>

#define SHOW_EVERY_US 200000
#define WAIT_MOST_S   1800.0 /* for events, when nobody says how long */
#define AROUND_S      0.2    /* a stretch reaches so far before and behind what was caught */
#define NOW_S         1.0    /* 'now' is a stretch of so long before the word */

typedef enum phase { PHASE_DONE, PHASE_WAITS, PHASE_IDLES, PHASE_CATCHES } phase; /* DONE: an order is awaited */

typedef struct stretch {
    bool idle;
    double from, to;
} stretch;

typedef struct session {
    const live_setup *setup;
    rgp_door *door;
    uint32_t slot;
    const char *unit;
    phase is;
    double until, began; /* seconds, of the phase */
    guint wanted;        /* events */
    double now, value;   /* of the newest tick; NAN: not to be trusted */
    catcher catcher;
    bool learned;
    GArray *stretch;
    bool over, done;
    gint64 shown_us;
} session;

static session *at_work; /* readline's handler takes no argument */

/* A line of its own, also while a prompt stands there. */
static void tell(const char *format, ...) G_GNUC_PRINTF(1, 2);

static void tell(const char *format, ...)
{
    va_list arguments;
    if (at_work) {
        rl_clear_visible_line();
    }
    va_start(arguments, format);
    vprintf(format, arguments);
    va_end(arguments);
    putchar('\n');
    if (at_work) {
        rl_on_new_line();
    }
}

/* ---- frames ---------------------------------------------------------------------------------------- */

static void put_value(const session *s, double value, GString *to)
{
    rgp_describe_number(value, s->unit, to);
}

static guint events_of(const session *s)
{
    guint count = 0;
    for (guint i = 0; i < s->stretch->len; i++) {
        count += !g_array_index(s->stretch, stretch, i).idle;
    }
    return count;
}

static void add_stretch(session *s, bool idle, double from, double to)
{
    const stretch one = {idle, fmax(from, 0.0), to};
    g_array_append_val(s->stretch, one);
}

static void end_idle(session *s)
{
    s->is = PHASE_DONE;
    s->learned = catcher_learn(&s->catcher);
    if (!s->learned) {
        tell("  too few readings for idle time; take it anew, and for longer");
        return;
    }
    g_autoptr(GString) text = g_string_new(NULL);
    add_stretch(s, true, s->began, s->now);
    g_string_append_printf(text, "  idle for %.3g s: usually ", s->now - s->began);
    put_value(s, s->catcher.median, text);
    g_string_append(text, ", caught is what goes ");
    if (s->catcher.above) {
        g_string_append(text, "above ");
        put_value(s, s->catcher.high, text);
    }
    if (s->catcher.below) {
        g_string_append(text, s->catcher.above ? " or below " : "below ");
        put_value(s, s->catcher.low, text);
    }
    tell("%s", text->str);
}

static void take_catch(session *s)
{
    const caught *c = &s->catcher.now;
    g_autoptr(GString) peak = g_string_new(NULL);
    add_stretch(s, false, c->from - AROUND_S, c->to + AROUND_S);
    put_value(s, c->peak, peak);
    tell("  %s %u: up to %s, for %.3g s, at %.2f s", s->setup->event, events_of(s), peak->str, c->to - c->from,
           c->from);
    if (--s->wanted == 0) {
        s->is = PHASE_DONE;
    }
}

static void catch_events(session *s)
{
    switch (catcher_value(&s->catcher, s->now, s->value)) {
    case CATCH_TAKEN:
        take_catch(s);
        break;
    case CATCH_TOO_LONG:
        tell("  refused: it has been beyond for %.0f s, which is no event; has idle time become another?",
               CATCH_MOST_S);
        break;
    case CATCH_BAD:
        tell("  refused: it could not be read at %.2f s", s->now);
        break;
    default:
        break;
    }
}

static bool take_frame(void *self, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    session *s = self;
    const bool usable = rgp_usable(rgp_frame_quality(layout, frame)[s->slot]);
    s->now = (double)frame->time_us / 1e6;
    s->value = usable ? (double)rgp_frame_value(layout, frame)[s->slot] : (double)NAN;
    if (s->is == PHASE_IDLES) {
        catcher_idle(&s->catcher, s->value);
    } else if (s->is == PHASE_CATCHES) {
        catch_events(s);
    }
    return true;
}

/* The time of a phase is over. */
static void look_at_time(session *s)
{
    if (s->is == PHASE_IDLES && s->now >= s->until) {
        end_idle(s);
    } else if (s->is == PHASE_CATCHES && s->now >= s->until) {
        tell("  %u more were to come within that time", s->wanted);
        s->is = PHASE_DONE;
    } else if (s->is == PHASE_WAITS && s->now >= s->until) {
        s->is = PHASE_DONE;
    }
}

/* A tenth of a second; false when the rig runs no longer. */
static bool go_on(session *s)
{
    const bool runs = rgp_door_advance(s->door, (uint64_t)((s->now + 0.1) * 1e6));
    look_at_time(s);
    fflush(stdout);
    return runs;
}

/* ---- orders ---------------------------------------------------------------------------------------- */

typedef struct order {
    const char *word, *help;
    bool (*run)(session *s, const char *rest); /* false: it cannot be done, which has been said */
} order;

static bool parse_time(const char *text, double *seconds)
{
    const char *why = "";
    if (!rgp_quantity_parse(text, "s", seconds, &why) || *seconds <= 0.0) {
        printf("  '%s': %s; a time is meant, as in 2min or 90s\n", text, *why ? why : "it is to be above 0");
        return false;
    }
    return true;
}

static bool begin_idle(session *s, const char *rest)
{
    double seconds;
    if (!*rest) {
        puts("  for how long? as in 'idle 2min'");
        return false;
    }
    if (!parse_time(rest, &seconds)) {
        return false;
    }
    g_array_set_size(s->catcher.idle, 0);
    s->is = PHASE_IDLES;
    s->began = s->now;
    s->until = s->now + seconds;
    printf("  nothing is to happen for %.3g s ...\n", seconds);
    return true;
}

static bool begin_waiting(session *s, const char *rest)
{
    double seconds;
    if (!parse_time(rest, &seconds)) {
        return false;
    }
    s->is = PHASE_WAITS;
    s->until = s->now + seconds;
    return true;
}

static bool begin_events(session *s, const char *rest)
{
    g_auto(GStrv) part = g_strsplit(rest, " within ", 2);
    guint64 wanted;
    double seconds = WAIT_MOST_S;
    if (!s->learned) {
        puts("  idle time comes first: 'idle 2min'");
        return false;
    }
    if (!part[0] || !g_ascii_string_to_unsigned(g_strstrip(part[0]), 10, 1, 10000, &wanted, NULL)) {
        puts("  how many? as in 'event 20', or 'event 20 within 10min'");
        return false;
    }
    if (part[1] && !parse_time(part[1], &seconds)) {
        return false;
    }
    s->is = PHASE_CATCHES;
    s->wanted = (guint)wanted;
    s->until = s->now + seconds;
    s->catcher.open = false;
    printf("  make it happen %u times ...\n", (guint)wanted);
    return true;
}

static bool take_now(session *s, const char *rest)
{
    (void)rest;
    add_stretch(s, false, s->now - NOW_S, s->now);
    printf("  %s %u: at %.2f s, by your word\n", s->setup->event, events_of(s), s->now - NOW_S);
    return true;
}

static bool go_back(session *s, const char *rest)
{
    (void)rest;
    if (s->stretch->len == 0) {
        puts("  there is nothing to take back");
        return false;
    }
    const stretch last = g_array_index(s->stretch, stretch, s->stretch->len - 1);
    g_array_set_size(s->stretch, s->stretch->len - 1);
    s->wanted += s->is == PHASE_CATCHES && !last.idle;
    s->learned &= !last.idle;
    printf("  %s at %.2f s is taken back\n", last.idle ? s->setup->idle : s->setup->event, last.from);
    return true;
}

static bool list(session *s, const char *rest)
{
    (void)rest;
    for (guint i = 0; i < s->stretch->len; i++) {
        const stretch *one = &g_array_index(s->stretch, stretch, i);
        printf("  %-10s %10.3f .. %10.3f s\n", one->idle ? s->setup->idle : s->setup->event, one->from, one->to);
    }
    return true;
}

static bool conclude(session *s, const char *rest)
{
    (void)rest;
    if (s->is == PHASE_IDLES) {
        end_idle(s);
    }
    if (!s->learned || events_of(s) == 0) {
        puts("  there has to be idle time, and an event at least");
        return false;
    }
    s->over = s->done = true;
    return true;
}

static bool quit(session *s, const char *rest)
{
    (void)rest;
    s->over = true;
    return true;
}

static bool help(session *s, const char *rest);

static const order orders[] = {
    {"idle", "idle TIME        nothing is to happen for so long, as in 'idle 2min'", begin_idle},
    {"event", "event NUMBER     catches so many, as in 'event 20', or 'event 20 within 10min'", begin_events},
    {"wait", "wait TIME        lets it run, and looks at nothing", begin_waiting},
    {"now", "now              what has just been was one, though it was not caught", take_now},
    {"back", "back             takes the last one back", go_back},
    {"list", "list             what there is so far", list},
    {"done", "done             goes on to the threshold", conclude},
    {"quit", "quit             leaves; the recording stays", quit},
    {"help", "help             this list", help},
};

static bool help(session *s, const char *rest)
{
    (void)s;
    (void)rest;
    for (size_t i = 0; i < G_N_ELEMENTS(orders); i++) {
        printf("  %s\n", orders[i].help);
    }
    return true;
}

/* An empty line ends a phase before its time. */
static bool end_phase(session *s)
{
    if (s->is == PHASE_IDLES) {
        end_idle(s);
    }
    s->is = PHASE_DONE;
    return true;
}

static bool hear(session *s, const char *given)
{
    g_autofree char *line = g_strstrip(g_strndup(given, strcspn(given, "#")));
    const size_t length = strcspn(line, " \t");
    if (!*line) {
        return end_phase(s);
    }
    for (size_t i = 0; i < G_N_ELEMENTS(orders); i++) {
        if (strlen(orders[i].word) == length && strncmp(line, orders[i].word, length) == 0) {
            return orders[i].run(s, g_strchug(line + length));
        }
    }
    printf("  '%.*s' is no order; 'help' lists them\n", (int)length, line);
    return false;
}

/* ---- a script -------------------------------------------------------------------------------------- */

/* An order is done when its phase is over. */
static bool run_line(session *s, const char *line)
{
    const bool comment = *line == '#' || !line[strspn(line, " \t\r\n")];
    if (!comment && !hear(s, line)) {
        return false;
    }
    while (s->is != PHASE_DONE && !interrupt_asked()) {
        if (!go_on(s)) {
            puts("  the rig runs no longer");
            return false;
        }
    }
    return true;
}

static bool run_script(session *s, FILE *from)
{
    char *line = NULL;
    size_t room = 0;
    bool sound = true;
    for (guint number = 1; sound && !s->over && !interrupt_asked() && getline(&line, &room, from) >= 0; number++) {
        sound = run_line(s, line);
        if (!sound) {
            command_refuse(s->setup->self, "line %u of the script: '%s' could not be done", number, g_strstrip(line));
        }
    }
    free(line);
    if (sound && !s->over && !interrupt_asked()) {
        sound = conclude(s, "");
    }
    return sound;
}

/* ---- at a terminal --------------------------------------------------------------------------------- */

static void take_line(char *line)
{
    if (!line) {
        at_work->over = true;
    } else {
        if (*line) {
            add_history(line);
        }
        hear(at_work, line);
    }
    free(line);
    if (at_work->over) {
        rl_callback_handler_remove();
    }
}

/* "shake 3.2 mm/s, 14 s of idle time left > " */
static char *prompt_of(const session *s)
{
    GString *to = g_string_new(s->setup->where->value);
    g_string_append_c(to, ' ');
    if (isnan(s->value)) {
        g_string_append(to, "cannot be read");
    } else {
        put_value(s, s->value, to);
    }
    if (s->is == PHASE_IDLES) {
        g_string_append_printf(to, ", idle for another %.0f s", s->until - s->now);
    } else if (s->is == PHASE_CATCHES) {
        g_string_append_printf(to, ", %u more%s", s->wanted, s->catcher.open ? ", now!" : "");
    }
    g_string_append(to, " > ");
    return g_string_free(to, FALSE);
}

static void show(session *s)
{
    const gint64 now = g_get_monotonic_time();
    if (now - s->shown_us > SHOW_EVERY_US) {
        s->shown_us = now;
        g_autofree char *prompt = prompt_of(s);
        rl_set_prompt(prompt);
        rl_redisplay();
    }
}

static bool talk(session *s)
{
    printf("'%s' is looked at, and nothing is driven. Idle time first, then events:\n", s->setup->where->value);
    help(s, "");
    g_autofree char *prompt = prompt_of(s);
    at_work = s;
    rl_catch_signals = 0;
    rl_readline_name = "rigpulse";
    rl_bind_key('\t', rl_insert);
    rl_callback_handler_install(prompt, take_line);
    while (!s->over && !interrupt_asked()) {
        struct pollfd keys = {STDIN_FILENO, POLLIN, 0};
        if (!go_on(s)) {
            puts("\nthe rig runs no longer");
            break;
        }
        if (poll(&keys, 1, 0) > 0) {
            rl_callback_read_char();
        } else {
            show(s);
        }
    }
    rl_callback_handler_remove();
    at_work = NULL;
    return true;
}

/* ---- the session ----------------------------------------------------------------------------------- */

static bool run_orders(session *s)
{
    const char *script = s->setup->script;
    if (!script && isatty(STDIN_FILENO) && isatty(STDOUT_FILENO)) {
        return talk(s);
    }
    const bool piped = !script || strcmp(script, "-") == 0;
    FILE *from = piped ? stdin : fopen(script, "r");
    if (!from) {
        command_refuse(s->setup->self, "%s: %s", script, g_strerror(errno));
        return false;
    }
    const bool sound = run_script(s, from);
    if (!piped) {
        fclose(from);
    }
    return sound;
}

static bool put_marks(const session *s)
{
    g_autoptr(GError) error = NULL;
    rgp_recording *r = rgp_recording_read(s->setup->record, &error);
    bool put = r != NULL;
    for (guint i = 0; put && i < s->stretch->len; i++) {
        const stretch *one = &g_array_index(s->stretch, stretch, i);
        const double last = (double)rgp_recording_time_us(r, r->rows - 1) / 1e6;
        const rgp_mark_change change = {.what = RGP_MARK_PUT,
                                        .name = one->idle ? s->setup->idle : s->setup->event,
                                        .from = one->from,
                                        .until = fmin(one->to, last)};
        put = rgp_mark_change_one(r, &change, &error);
    }
    rgp_recording_free(r);
    if (!put) {
        command_refuse(s->setup->self, "%s", error->message);
    }
    return put;
}

static bool open_door(session *s, rgp_door_setup *of)
{
    g_autoptr(GError) error = NULL;
    *of = (rgp_door_setup){.rig = s->setup->rig,
                           .seed = s->setup->seed,
                           .fast = s->setup->fast,
                           .stepped = true,
                           .hand_only = true,
                           .record = s->setup->record,
                           .overwrite = s->setup->overwrite,
                           .frame = take_frame,
                           .self = s};
    s->door = rgp_door_open(of, &error);
    return s->door || (command_refuse(s->setup->self, "%s", error->message), false);
}

static bool end_door(session *s)
{
    rgp_door_result result;
    rgp_door_end(s->door, &result);
    const bool recorded = !result.record_failed;
    if (!recorded) {
        command_refuse(s->setup->self, "%s", result.complaint);
    }
    rgp_door_result_clear(&result);
    return recorded;
}

bool live_take(const live_setup *setup, int *status)
{
    const int32_t slot = rgp_image_find(setup->rig->image, RGP_FIND_SLOT, setup->where->value);
    session s = {.setup = setup,
                 .slot = (uint32_t)slot,
                 .unit = setup->where->unit,
                 .value = (double)NAN,
                 .catcher = {.idle = g_array_new(FALSE, FALSE, sizeof(double)),
                             .above = !setup->written || setup->where->above,
                             .below = !setup->written || !setup->where->above},
                 .stretch = g_array_new(FALSE, FALSE, sizeof(stretch))};
    rgp_door_setup of;
    *status = EXIT_USAGE;
    bool taken = false;
    interrupt_catch();
    if (slot < 0) {
        command_refuse(setup->self, "--live looks at a value that has a name: put 'signal it = %s' into the file",
                       setup->where->value);
    } else if (open_door(&s, &of)) {
        const bool sound = run_orders(&s), ended = end_door(&s);
        taken = sound && ended && s.done && put_marks(&s);
        *status = sound && ended ? EXIT_DONE : EXIT_USAGE;
        if (sound && ended) {
            printf("recorded %s.csv, .events.jsonl and .json%s\n\n", setup->record, taken ? ", and its marks" : "");
        }
    }
    g_array_unref(s.catcher.idle);
    g_array_unref(s.stretch);
    return taken;
}
