/* Orders, typed or from a script; the table below lists them. */
#include "live_session.h"

#include "explain/describe.h"
#include "rigpulse/lang.h"

#include <stdio.h>
#include <string.h>

#define WAIT_MOST_S 1800.0 /* for events, when nobody says how long */
#define NOW_S       1.0    /* 'now' is a stretch of so long before the word */

typedef struct order {
    const char *word, *help;
    bool (*run)(session *s, const char *rest); /* false: it cannot be done, which has been said */
} order;

static bool parse_time(const char *text, double *seconds)
{
    const char *why;
    const bool parsed = rgp_quantity_parse(text, "s", seconds, &why);
    if (!parsed || *seconds <= 0.0) {
        printf("  '%s': %s; a time is meant, as in 2min or 90s\n", text, parsed ? "it is to be above 0" : why);
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
    g_autoptr(GString) span = g_string_new(NULL);
    rgp_describe_span(seconds, span);
    printf("  nothing is to happen for %s ...\n", span->str);
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
    printf(wanted == 1 ? "  make it happen once ...\n" : "  make it happen %u times ...\n", (guint)wanted);
    return true;
}

static bool take_now(session *s, const char *rest)
{
    (void)rest;
    if (!live_add(s, false, s->now - NOW_S, s->now)) {
        puts("  all that has been so far is counted already");
        return false;
    }
    const stretch *one = &g_array_index(s->stretch, stretch, s->stretch->len - 1);
    printf("  %s %u: at %.2f s, by your word\n", s->setup->event, live_events(s), one->from);
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

bool live_conclude(session *s)
{
    if (s->is == PHASE_IDLES) {
        live_end_idle(s);
    }
    if (!s->learned || live_events(s) == 0) {
        puts("  there has to be idle time, and an event at least");
        return false;
    }
    s->over = s->done = true;
    return true;
}

static bool conclude(session *s, const char *rest)
{
    (void)rest;
    return live_conclude(s);
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

void live_help(void)
{
    for (size_t i = 0; i < G_N_ELEMENTS(orders); i++) {
        printf("  %s\n", orders[i].help);
    }
}

static bool help(session *s, const char *rest)
{
    (void)s;
    (void)rest;
    live_help();
    return true;
}

/* An empty line ends a phase before its time. */
static bool end_phase(session *s)
{
    if (s->is == PHASE_IDLES) {
        live_end_idle(s);
    }
    s->is = PHASE_DONE;
    return true;
}

bool live_hear(session *s, const char *given)
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
    const char *word[G_N_ELEMENTS(orders)];
    for (size_t i = 0; i < G_N_ELEMENTS(orders); i++) {
        word[i] = orders[i].word;
    }
    line[length] = '\0';
    const char *near = rgp_nearest_word(line, word, G_N_ELEMENTS(orders));
    printf(near ? "  '%s' is no order; did you mean '%s'?\n" : "  '%s' is no order; 'help' lists them\n", line, near);
    return false;
}
