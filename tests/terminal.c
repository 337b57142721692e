#include "terminal.h"

#include <poll.h>
#include <pty.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <termios.h>
#include <unistd.h>

#define PATIENCE_MS 60000

person person_call(const char *folder, const char *arguments)
{
    person p = {.seen = g_string_new(NULL)};
    const struct winsize size = {24, 200, 0, 0};
    g_autofree char *line = g_strconcat(RIGPULSE_TOOL " ", arguments, NULL);
    g_auto(GStrv) argv = NULL;
    assert_true(g_shell_parse_argv(line, NULL, &argv, NULL));
    p.child = forkpty(&p.terminal, NULL, NULL, &size);
    assert_true(p.child >= 0);
    if (p.child == 0) {
        setenv("TERM", "xterm-256color", 1);
        setenv("LC_ALL", "C.UTF-8", 1);
        if (chdir(folder) == 0) {
            execv(argv[0], argv);
        }
        _exit(127);
    }
    return p;
}

/* What is shown within `wait_ms`, one piece; false when there is no more to come. */
static bool look(person *p, int wait_ms)
{
    char piece[4096];
    struct pollfd at = {p->terminal, POLLIN, 0};
    if (poll(&at, 1, wait_ms) <= 0) {
        return false;
    }
    const ssize_t length = read(p->terminal, piece, sizeof piece);
    if (length > 0) {
        g_string_append_len(p->seen, piece, length);
    }
    return length > 0;
}

void person_waits(person *p, const char *text)
{
    const char *found;
    while (!(found = strstr(p->seen->str, text))) {
        if (!look(p, PATIENCE_MS)) {
            fail_msg("'%s' was not shown, but: %s", text, p->seen->str);
        }
    }
    g_string_erase(p->seen, 0, (gssize)(found - p->seen->str) + (gssize)strlen(text));
}

void person_types(person *p, const char *keys)
{
    assert_int_equal(write(p->terminal, keys, strlen(keys)), strlen(keys));
}

int person_leaves(person *p, char **left)
{
    int status = 0;
    while (look(p, PATIENCE_MS)) {
    }
    assert_int_equal(waitpid(p->child, &status, 0), p->child);
    close(p->terminal);
    char *text = g_string_free(p->seen, FALSE);
    if (left) {
        *left = text;
    } else {
        g_free(text);
    }
    return WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
}
