/* A look at what a device prints: how often, in which columns, with which values. */
#ifndef RUNTIME_LISTEN_H
#define RUNTIME_LISTEN_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

#define HEARD_WORDS 4u

/* A column of CSV, or a field of JSON. */
typedef struct rgp_heard_column {
    char *name;                  /* of the heading, or of the field; NULL: it has none */
    uint64_t numbers, empty;     /* cells */
    double least, greatest, sum; /* of the numbers */
    double last, squares;        /* the number before; the sum of squared differences from one to the next */
    unsigned decimals;           /* digits behind the point, the most */
    char *word[HEARD_WORDS];     /* that are no numbers, the first ones */
    unsigned words;              /* different ones; HEARD_WORDS + 1: more */
} rgp_heard_column;

typedef struct rgp_heard {
    char *path;
    unsigned speed;
    bool json;
    double seconds;
    uint64_t lines, unread;
    char *unread_line; /* the last one, and why; NULL: none */
    GArray *column;    /* of rgp_heard_column */
} rgp_heard;

/* Listens for so long, or until `over` says true, which is asked ten times a second. NULL with *error when it cannot be
 * opened, or was unplugged meanwhile. To be freed. */
rgp_heard *rgp_serial_listen(const char *path, unsigned speed, double seconds, bool (*over)(void), GError **error);
void rgp_heard_free(rgp_heard *heard);

/* The standard deviation of a column's numbers about their course, by the mean squared difference of neighbours (von
 * Neumann, 1941): what moves slowly is no noise. NAN: fewer than three. */
double rgp_heard_noise(const rgp_heard_column *column);

/* The lines of a rig file that would connect it, to be freed. */
char *rgp_heard_lines(const rgp_heard *heard);

#endif
