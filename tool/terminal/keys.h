/* Keys as a table: each view has rows of its own, which begin with a face; from it come the key that is found, the page
 * of all keys and the line at the bottom. */
#ifndef TOOL_TERMINAL_KEYS_H
#define TOOL_TERMINAL_KEYS_H

#include <stddef.h>

/* `key` and `also` are ncurses'; `shown` and `says` stand on the page, `hint` in the line at the bottom in the states
 * of `when` (a mask of the view's own). 0, NULL: none. */
#define KEY_FACE                     \
    int key, also;                   \
    const char *shown, *says, *hint; \
    unsigned when
typedef struct key_face {
    KEY_FACE;
} key_face;

/* A view's table. */
typedef struct key_table {
    const void *rows;
    size_t size, count; /* of a row, of the rows */
} key_table;

#define KEY_TABLE(rows) ((key_table){rows, sizeof *(rows), sizeof(rows) / sizeof *(rows)})

/* The row of that key; table.count: there is none. */
size_t keys_find(key_table table, int key);

/* The page of keys: its head, and the i-th of `count` lines with what it does, in two columns where one has no room. */
void keys_draw_head(const char *text);
void keys_draw_line(size_t i, size_t count, const char *shown, const char *says);

/* The whole page of a table. */
void keys_draw_page(key_table table);

/* The hints of this state, in the table's order, as many as there is room for; those of the last two rows always. */
void keys_draw_hints(key_table table, unsigned when, int row, int width);

#endif
