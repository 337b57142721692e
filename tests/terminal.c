/* The tool behind a pseudo-terminal: its screen, and keys that are pressed. */
#include "terminal.h"

#include <poll.h>
#include <pty.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <sys/wait.h>
#include <termios.h>
#include <unistd.h>

#define PATIENCE_MS 30000

static person begin(const char *folder, const char *arguments, int rows, int columns)
{
    person p = {.seen = g_string_new(NULL), .rows = rows, .columns = columns};
    const struct winsize size = {(unsigned short)rows, (unsigned short)columns, 0, 0};
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

person person_call(const char *folder, const char *arguments)
{
    return begin(folder, arguments, 24, 200);
}

person person_watch(const char *folder, const char *arguments, int rows, int columns)
{
    person p = begin(folder, arguments, rows, columns);
    p.model = vterm_new(rows, columns);
    vterm_set_utf8(p.model, 1);
    vterm_screen_enable_altscreen(vterm_obtain_screen(p.model), 1);
    vterm_screen_reset(vterm_obtain_screen(p.model), 1);
    return p;
}

/* The output within `wait_ms`, one piece; false when there is no more to come. */
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
        if (p->model) {
            vterm_input_write(p->model, piece, (size_t)length);
        }
    }
    return length > 0;
}

void person_waits(person *p, const char *text)
{
    const gint64 until = g_get_monotonic_time() + PATIENCE_MS * 1000; /* a live line comes again and again */
    const char *found;
    while (!(found = strstr(p->seen->str, text))) {
        if (g_get_monotonic_time() > until || !look(p, PATIENCE_MS)) {
            fail_msg("'%s' was not shown, but: %s", text, p->seen->str);
        }
    }
    g_string_erase(p->seen, 0, (gssize)(found - p->seen->str) + (gssize)strlen(text));
}

char *person_screen(person *p)
{
    GString *all = g_string_new(NULL);
    for (int row = 0; row < p->rows; row++) {
        for (int column = 0; column < p->columns; column++) {
            VTermScreenCell cell;
            vterm_screen_get_cell(vterm_obtain_screen(p->model), (VTermPos){row, column}, &cell);
            g_string_append_unichar(all, cell.chars[0] ? cell.chars[0] : ' ');
        }
        g_string_append_c(all, '\n');
    }
    return g_string_free(all, FALSE);
}

void person_sees(person *p, const char *text)
{
    const gint64 until = g_get_monotonic_time() + PATIENCE_MS * 1000;
    for (;;) {
        g_autofree char *screen = person_screen(p);
        if (strstr(screen, text)) {
            return;
        }
        if (g_get_monotonic_time() > until || !look(p, PATIENCE_MS)) {
            fail_msg("'%s' does not stand on the screen:\n%s", text, screen);
        }
    }
}

void person_resizes(person *p, int rows, int columns)
{
    const struct winsize size = {(unsigned short)rows, (unsigned short)columns, 0, 0};
    assert_int_equal(ioctl(p->terminal, TIOCSWINSZ, &size), 0);
    if (rows > 0 && columns > 0) {
        vterm_set_size(p->model, rows, columns);
        p->rows = rows;
        p->columns = columns;
    }
}

void person_looks_on(person *p, int milliseconds)
{
    const gint64 until = g_get_monotonic_time() + milliseconds * 1000;
    for (gint64 now; (now = g_get_monotonic_time()) < until;) {
        look(p, (int)MIN(20, (until - now) / 1000 + 1));
    }
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
    if (p->model) {
        vterm_free(p->model);
    }
    char *text = g_string_free(p->seen, FALSE);
    if (left) {
        *left = text;
    } else {
        g_free(text);
    }
    return WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
}
