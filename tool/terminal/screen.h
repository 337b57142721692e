/* The terminal as a screen of cells, on ncurses: begun, written on, and always given back as it was. */
#ifndef TOOL_TERMINAL_SCREEN_H
#define TOOL_TERMINAL_SCREEN_H

#include <glib.h>
#include <stdbool.h>

/* The inks: a colour where there is one, and always something that shows without. */
typedef enum ink {
    INK_PLAIN,
    INK_DIM,
    INK_STRONG,
    INK_HEAD, /* the line at the top */
    INK_GOOD,
    INK_WARN,
    INK_BAD,
    INK_SERIES, /* and the next ones: curves */
    INKS = INK_SERIES + 6
} ink;

enum { KEY_NONE = -1, KEY_WINDOW = -2 /* its size has changed */ };

/* False when the terminal is not one that can be written on. */
bool screen_begin(void);
void screen_end(void);

int screen_rows(void);
int screen_columns(void);

void screen_clear(void);

/* UTF-8, cut off at `width` columns, and with `fill` padded up to them. Outside of the screen nothing is written. */
void screen_put(int row, int column, int width, ink with, const char *text);
void screen_fill(int row, int column, int width, ink with, const char *text);
void screen_printf(int row, int column, int width, ink with, const char *format, ...) G_GNUC_PRINTF(5, 6);

/* Puts what was written before the person's eyes. May wait for a terminal that does not read. */
void screen_show(void);

/* When interrupt_take_suspend() says so: the terminal is given back, and the process stops until it is continued. */
void screen_suspend(void);

/* The next key, of ncurses; KEY_NONE when none came within the time; a terminal that has gone away is asked to
 * be left, see interrupt.h. */
int screen_key(int wait_ms);

#endif
