/* The lines that a device prints, taken apart into cells: a row of CSV, or an object of JSON. */
#ifndef PORTS_SERIAL_LINE_H
#define PORTS_SERIAL_LINE_H

#include <csv.h>
#include <glib.h>
#include <jansson.h>
#include <stdbool.h>

#define LINE_MOST 4096u /* bytes; a longer line is none */

/* Bytes become lines. */
typedef struct line_buffer {
    char text[LINE_MOST + 1];
    gsize length;
    bool overlong; /* the rest of the line is left aside */
    bool skips;    /* likewise, and nobody is told of it */
} line_buffer;

/* Called for each whole line, without its end, a NUL behind it; NULL for one that was too long. */
typedef void line_taker(void *self, const char *line);

/* Line feeds and carriage returns end a line; empty ones are left aside. */
void line_take_bytes(line_buffer *b, const char *bytes, gsize count, line_taker *take, void *self);

typedef struct line_cells {
    bool json;
    struct csv_parser parser;
    GPtrArray *cell;  /* texts of the row */
    GString *field;   /* that is being put together */
    json_t *object;   /* of the line; NULL: none */
    GPtrArray *named; /* texts of the heading; empty: there was none */
} line_cells;

void line_begin(line_cells *c, bool json);
void line_end(line_cells *c);

/* False with *why, a constant, when it is neither. */
bool line_split(line_cells *c, const char *line, const char **why);

/* The row becomes the heading. */
void line_name_columns(line_cells *c);

/* A cell as a text: of column `number`, from 1, or where `name` is not NULL of that name; in an object a name may go
 * into objects in it, "tank.level". NULL with *why, a constant, when the line has none. It lives until the next line.
 */
const char *line_cell(line_cells *c, unsigned number, const char *name, const char **why);

/* True where a text is a number, and nothing else. */
bool line_number(const char *text, double *number);

/* True when no cell of the row is a number, or nothing, and all differ. */
bool line_is_heading(const line_cells *c);

#endif
