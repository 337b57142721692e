/* The terminal on ncurses: inks, cells, keys, and giving it back. */
#include "screen.h"

#include "runtime/interrupt.h"

#include <curses.h>
#include <langinfo.h>
#include <locale.h>
#include <poll.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <term.h>
#include <termios.h>
#include <unistd.h>

static SCREEN *terminal;
static struct termios before;
static char farewell[256]; /* what a terminal needs to be as it was, for when nothing else works any more */

static const short series_colour[] = {COLOR_CYAN, COLOR_YELLOW, COLOR_MAGENTA, COLOR_GREEN, COLOR_RED, COLOR_BLUE};
static attr_t attribute[INKS];

#define BRIGHT_BLUE 12 /* where there are 16 colours: plain blue is hard to see on black */

/* ---- given back, also when the program breaks ------------------------------------------------------ */

static void give_modes_back(void)
{
    tcsetattr(STDIN_FILENO, TCSANOW, &before);
}

static void append_capability(const char *name)
{
    char copy[32];
    g_strlcpy(copy, name, sizeof copy);
    const char *text = tigetstr(copy);
    if (text && text != (const char *)-1) {
        g_strlcat(farewell, text, sizeof farewell);
    }
}

static void prepare_farewell(void)
{
    static const char *const capabilities[] = {"sgr0", "rmkx", "rmcup", "cnorm"};
    *farewell = '\0';
    for (size_t i = 0; i < G_N_ELEMENTS(capabilities); i++) {
        append_capability(capabilities[i]);
    }
    interrupt_farewell(farewell, give_modes_back);
}

/* ---- inks ------------------------------------------------------------------------------------------ */

static attr_t coloured(short pair, short colour)
{
    init_pair(pair, colour, -1);
    return (attr_t)COLOR_PAIR(pair);
}

static void mix_inks(void)
{
    const bool colour = has_colors() && !g_getenv("NO_COLOR");
    memset(attribute, 0, sizeof attribute);
    attribute[INK_DIM] = A_DIM;
    attribute[INK_STRONG] = A_BOLD;
    attribute[INK_HEAD] = A_REVERSE;
    attribute[INK_WARN] = A_BOLD;
    attribute[INK_BAD] = A_BOLD | A_UNDERLINE;
    if (!colour) {
        return;
    }
    start_color();
    use_default_colors();
    attribute[INK_GOOD] = coloured(1, COLOR_GREEN);
    attribute[INK_WARN] = coloured(2, COLOR_YELLOW) | A_BOLD;
    attribute[INK_BAD] = coloured(3, COLOR_RED) | A_BOLD;
    for (short i = 0; i < (short)G_N_ELEMENTS(series_colour); i++) {
        const short is = series_colour[i] == COLOR_BLUE && COLORS >= 16 ? BRIGHT_BLUE : series_colour[i];
        attribute[INK_SERIES + i] = coloured((short)(4 + i), is);
    }
}

/* ---- the screen ------------------------------------------------------------------------------------ */

bool screen_begin(void)
{
    setlocale(LC_CTYPE, "");
    if (strcmp(nl_langinfo(CODESET), "UTF-8") != 0) {
        setlocale(LC_CTYPE, "C.UTF-8");
    }
    if (tcgetattr(STDIN_FILENO, &before) != 0) {
        return false;
    }
    interrupt_catch_suspend(true); /* before ncurses: what is caught already it leaves alone, also while it draws */
    terminal = newterm(NULL, stdout, stdin);
    if (!terminal) {
        interrupt_catch_suspend(false);
        return false;
    }
    set_term(terminal);
    prepare_farewell();
    cbreak();
    noecho();
    nonl();
    keypad(stdscr, TRUE);
    set_escdelay(50);
    curs_set(0);
    mix_inks();
    return true;
}

void screen_end(void)
{
    if (terminal) {
        interrupt_catch_suspend(false);
        interrupt_farewell(NULL, NULL);
        endwin();
        delscreen(terminal);
        terminal = NULL;
    }
}

int screen_rows(void)
{
    return LINES;
}

int screen_columns(void)
{
    return COLS;
}

void screen_clear(void)
{
    erase();
}

/* The bytes of the first `width` characters. */
static int bytes_of(const char *text, int width)
{
    const char *at = text;
    while (*at && width-- > 0) {
        at = g_utf8_next_char(at);
    }
    return (int)(at - text);
}

void screen_put(int row, int column, int width, ink with, const char *text)
{
    width = MIN(width, COLS - column);
    if (row < 0 || row >= LINES || column < 0 || width <= 0) {
        return;
    }
    attron(attribute[with]);
    mvaddnstr(row, column, text, bytes_of(text, width));
    attroff(attribute[with]);
}

void screen_fill(int row, int column, int width, ink with, const char *text)
{
    const int length = (int)g_utf8_strlen(text, -1);
    g_autofree char *padded = g_strdup_printf("%s%*s", text, MAX(0, width - length), "");
    screen_put(row, column, width, with, padded);
}

void screen_printf(int row, int column, int width, ink with, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_autofree char *text = g_strdup_vprintf(format, arguments);
    va_end(arguments);
    screen_put(row, column, width, with, text);
}

void screen_show(void)
{
    refresh();
}

/* The shell has the terminal until the process is continued. */
void screen_suspend(void)
{
    endwin();
    raise(SIGSTOP);
    refresh();
}

/* Nothing to read although there is: at its end, the terminal is gone. */
static bool is_gone(void)
{
    struct pollfd keys = {STDIN_FILENO, POLLIN, 0};
    int bytes = 0;
    return poll(&keys, 1, 0) > 0 && (ioctl(STDIN_FILENO, FIONREAD, &bytes) != 0 || bytes == 0);
}

int screen_key(int wait_ms)
{
    timeout(wait_ms);
    const int key = getch();
    if (key == ERR && wait_ms > 0 && is_gone()) {
        interrupt_ask();
    }
    return key == ERR ? KEY_NONE : key == KEY_RESIZE ? KEY_WINDOW : key;
}
