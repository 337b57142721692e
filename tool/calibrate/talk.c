/* Taking points in a dialogue: with the live reading in the prompt at a terminal, line by line otherwise. */
#include "calibrate.h"
#include "runtime/interrupt.h"

#include "explain/describe.h"

#include <errno.h>
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include <readline/history.h>
#include <readline/readline.h>

#define SHOW_EVERY_US 200000

typedef struct talk {
    calibration *c;
    char *refused; /* what was stated last and not taken */
    bool asking;   /* whether to write */
    bool over, result;
    gint64 shown_us;
} talk;

static talk *at_work; /* readline's handler takes no argument */

/* ---- what can be typed ----------------------------------------------------------------------------- */

typedef struct talk_word {
    const char *word, *help;
    void (*run)(talk *t, const char *rest);
} talk_word;

static void take_point(talk *t, const char *text, bool anyway)
{
    g_autofree char *why = NULL;
    double known;
    if (!calibrate_read_known(t->c, text, &known, &why)) {
        printf("  %s; 'help' lists what can be typed\n", why);
        return;
    }
    printf("  %s: taking %g s ...\n", text, t->c->window);
    fflush(stdout);
    if (calibrate_capture(t->c, text, known, anyway, &why)) {
        g_autoptr(GString) list = g_string_new(NULL);
        calibrate_list(t->c, list);
        fputs(list->str, stdout);
    } else if (!interrupt_asked()) {
        printf("  %s\n  ('anyway' takes it all the same)\n", why);
        g_free(t->refused);
        t->refused = g_strdup(text);
    }
}

static void take_anyway(talk *t, const char *rest)
{
    (void)rest;
    if (!t->refused) {
        puts("  nothing has been refused");
        return;
    }
    g_autofree char *text = g_steal_pointer(&t->refused);
    take_point(t, text, true);
}

static void go_back(talk *t, const char *rest)
{
    char *end;
    const guint64 number = *rest ? g_ascii_strtoull(rest, &end, 10) : t->c->point->len;
    if (t->c->point->len == 0) {
        puts("  there is no point to take back");
    } else if ((*rest && *end) || number < 1 || number > t->c->point->len) {
        printf("  there are the points 1 to %u\n", t->c->point->len);
    } else {
        calibrate_drop_point(t->c, (guint)number - 1);
        printf("  point %u is taken back; there %s %u\n", (guint)number, t->c->point->len == 1 ? "is" : "are",
               t->c->point->len);
    }
}

static void place(talk *t, const char *rest)
{
    g_autofree char *why = NULL;
    if (calibrate_place(t->c, rest, &why)) {
        printf("  placed at %s\n", rest);
    } else if (!interrupt_asked()) {
        printf("  %s\n", why);
    }
}

static void list(talk *t, const char *rest)
{
    (void)rest;
    g_autoptr(GString) text = g_string_new(NULL);
    calibrate_list(t->c, text);
    fputs(text->len ? text->str : "  there are no points yet\n", stdout);
}

static void conclude(talk *t, const char *rest)
{
    (void)rest;
    g_autofree char *why = NULL;
    if (!calibrate_conclude(t->c, &why)) {
        printf("  %s\n", why);
        return;
    }
    if (t->c->options->dry_run) {
        t->over = t->result = true;
        return;
    }
    fputs(t->c->said->str, stdout);
    printf("write this into %s? yes or no\n", t->c->path);
    t->asking = true;
}

static void quit(talk *t, const char *rest)
{
    (void)rest;
    t->over = true;
}

static void help(talk *t, const char *rest);

static const talk_word words[] = {
    {"back", "back [NUMBER]   takes a point back, the last one if none is named", go_back},
    {"anyway", "anyway          takes what was just refused", take_anyway},
    {"place", "place VALUE     on the simulated port: a hand brings the mechanism there", place},
    {"list", "list            the points so far", list},
    {"done", "done            goes on to the result", conclude},
    {"quit", "quit            leaves; nothing is written", quit},
    {"help", "help            this list", help},
};

static void help(talk *t, const char *rest)
{
    (void)rest;
    if (calibrate_is_bands(t->c)) {
        g_autofree char *all = g_strjoinv(", ", (char **)(void *)t->c->what.band);
        printf("  a condition     captures it: %s\n", all);
    } else {
        printf("  a known value   captures it, for instance: 6 %s\n", t->c->what.unit);
    }
    for (size_t i = 0; i < G_N_ELEMENTS(words); i++) {
        printf("  %s\n", words[i].help);
    }
}

static void answer(talk *t, const char *line)
{
    t->asking = false;
    if (g_ascii_strcasecmp(line, "yes") == 0 || g_ascii_strcasecmp(line, "y") == 0) {
        t->over = t->result = true;
    } else if (g_ascii_strcasecmp(line, "no") == 0 || g_ascii_strcasecmp(line, "n") == 0) {
        puts("  not written; go on with points, or 'quit'");
    } else {
        puts("write it? type 'yes' or 'no'");
        t->asking = true;
    }
}

static void hear(talk *t, const char *given)
{
    g_autofree char *line = g_strstrip(g_strdup(given));
    const size_t length = strcspn(line, " \t");
    if (t->asking) {
        answer(t, line);
        return;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(words); i++) {
        if (strlen(words[i].word) == length && strncmp(line, words[i].word, length) == 0) {
            words[i].run(t, g_strchug(line + length));
            return;
        }
    }
    if (*line) {
        take_point(t, line, false);
    }
}

/* ---- at a terminal --------------------------------------------------------------------------------- */

static void take_line(char *line)
{
    if (!line) {
        putchar('\n');
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

/* "level 1650 counts ±5.9, still > ". */
static char *live_prompt(const talk *t)
{
    const rgp_intake *in = capture_session_intake(t->c->capture_session);
    const guint ticks = capture_session_ticks(t->c->capture_session), window = (guint)(t->c->window / in->tick + 0.5);
    if (t->asking) {
        return g_strdup("yes or no > ");
    }
    if (ticks < RGP_CAPTURE_READINGS_LEAST) {
        return g_strdup_printf("%s > ", in->sensor);
    }
    rgp_capture k = rgp_capture_window(in, ticks - MIN(ticks, window), ticks, 0.0);
    g_autoptr(GString) text = g_string_new(in->sensor);
    if (k.bad * 2 > k.readings) {
        const rgp_quality now = g_array_index(in->in_quality, rgp_quality, ticks - 1);
        g_string_append_printf(text, " %s > ", rgp_quality_text(now));
    } else {
        g_string_append_printf(text, " %.0f %s ±%.2g, %s > ", k.raw, in->unit, k.noise,
                               k.reason ? "not still" : "still");
    }
    rgp_capture_clear(&k);
    return g_string_free(g_steal_pointer(&text), FALSE);
}

static void show_live(talk *t)
{
    const gint64 now = g_get_monotonic_time();
    if (now - t->shown_us > SHOW_EVERY_US) {
        t->shown_us = now;
        g_autofree char *prompt = live_prompt(t);
        rl_set_prompt(prompt);
        rl_redisplay();
    }
}

static void talk_at_terminal(talk *t)
{
    g_autofree char *prompt = live_prompt(t);
    at_work = t;
    rl_catch_signals = 0;
    rl_readline_name = "rigpulse";
    rl_bind_key('\t', rl_insert);
    rl_callback_handler_install(prompt, take_line);
    while (!t->over && !interrupt_asked()) {
        struct pollfd keys = {STDIN_FILENO, POLLIN, 0};
        const bool live = !t->c->options->fast;
        if (live && !capture_session_tick(t->c->capture_session)) {
            puts("\nthere is no room for more readings");
            break;
        }
        const int ready = poll(&keys, 1, live ? 0 : -1);
        if (ready > 0) {
            rl_callback_read_char();
        } else if (live) {
            show_live(t);
        }
    }
    rl_callback_handler_remove();
    at_work = NULL;
}

/* ---- line by line ---------------------------------------------------------------------------------- */

static void talk_in_lines(talk *t)
{
    char *line = NULL;
    size_t room = 0;
    while (!t->over && !interrupt_asked() && getline(&line, &room, stdin) >= 0) {
        hear(t, line);
    }
    free(line);
}

bool calibrate_talk(calibration *c)
{
    talk t = {.c = c};
    printf("%s: '%s' is what is measured, in line %u; in goes: %s\n", c->path, c->what.word, c->what.line,
           c->what.input);
    puts("Nothing is driven. Bring it to a known condition, let it come to rest, and type what that is:");
    help(&t, "");
    if (isatty(STDIN_FILENO) && isatty(STDOUT_FILENO)) {
        talk_at_terminal(&t);
    } else {
        talk_in_lines(&t);
    }
    g_free(t.refused);
    return t.result;
}
