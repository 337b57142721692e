/* Inside the reader of a recording's table: what it knows of the columns and of the row that is being read. */
#ifndef RUNTIME_TABLE_READING_H
#define RUNTIME_TABLE_READING_H

#include "recording.h"

#include "files/table.h"

#define FLOAT_COUNTS 16777216.0f /* a float holds each whole number below */

enum { COLUMN_TIME = -1, COLUMN_NOT_GOOD = -2, COLUMN_SAMPLES = -3, COLUMN_OTHER = -4 };

/* The last text that a column held: many rows hold the same one. A length of 0: none yet. */
typedef struct known_word {
    char text[40];
    uint32_t length;
    float value;
} known_word;

typedef struct rgp_table_reading {
    rgp_recording *to;
    int file;
    guint64 bytes, read; /* of the file, as long as it was when it was opened */
    rgp_table *rows;
    bool again; /* rows of a block that were read before, when the index was made */
    char *piece;
    uint32_t owners, newness; /* the first of those columns */
    GArray *column_of;        /* by field: a column of the history or COLUMN_... */
    GHashTable *column_named; /* name -> column + 1 */
    GHashTable *owner_named;  /* "2 line 14" (actuator 2) -> owner + 1 */
    float *value;             /* of the row that is being read, by column */
    rgp_quality *quality;
    known_word *known; /* by column */
    uint32_t fields;   /* in this row so far */
    uint64_t row;
    double now, before;
    char *samples; /* of this row; NULL: none were told */
    char *torn;    /* what is wrong with this row; NULL: nothing */
} rgp_table_reading;

/* Reads a whole row that has nothing odd: all good, all samples new, numbers or the words of the row before. False: it
 * is to be read field by field, and nothing of it counts yet. */
bool rgp_table_reading_quickly(rgp_table_reading *r, const char *line, size_t length);

#endif
