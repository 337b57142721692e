/* Orders of a live session as they come: from a script, one after the other, or typed while it runs. */
#include "live_session.h"

#include "runtime/interrupt.h"

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

static session *at_work; /* readline's handler takes no argument */

/* ---- a script -------------------------------------------------------------------------------------- */

/* An order is done when its phase is over. */
static bool run_line(session *s, const char *line)
{
    const bool comment = *line == '#' || !line[strspn(line, " \t\r\n")];
    if (!comment && !live_hear(s, line)) {
        return false;
    }
    while (s->is != PHASE_DONE && !interrupt_asked()) {
        if (!live_go_on(s) && !interrupt_asked()) {
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
        sound = live_conclude(s);
    }
    return sound;
}

bool live_script(session *s)
{
    const char *script = s->setup->script;
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

/* ---- at a terminal --------------------------------------------------------------------------------- */

static void take_line(char *line)
{
    if (!line) {
        at_work->over = true;
    } else {
        if (*line) {
            add_history(line);
        }
        live_hear(at_work, line);
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
        live_put_value(s, s->value, to);
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

bool live_talk(session *s)
{
    printf("'%s' is looked at, and nothing is driven. Idle time first, then events:\n", s->setup->where->value);
    live_help();
    g_autofree char *prompt = prompt_of(s);
    at_work = s;
    s->prompts = true;
    rl_catch_signals = 0;
    rl_readline_name = "rigpulse";
    rl_bind_key('\t', rl_insert);
    rl_callback_handler_install(prompt, take_line);
    while (!s->over && !interrupt_asked()) {
        struct pollfd keys = {STDIN_FILENO, POLLIN, 0};
        if (!live_go_on(s)) {
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
    s->prompts = false;
    return true;
}
