/* The readings of one sensor out of a CSV file (RFC 4180): its column, and what recordings of this project say of it
 * beside that. */
#ifndef SIM_SENSORS_PLAYED_TABLE_H
#define SIM_SENSORS_PLAYED_TABLE_H

#include "played.h"

typedef struct played_row {
    uint64_t time_us;
    double value; /* counts; a NaN where it is missing */
} played_row;

typedef struct played_table {
    GArray *row;  /* played_row, at least one, rising in time */
    GArray *edge; /* likewise; there may be none */
    char *unit;   /* behind the column's name; "" for none */
} played_table;

/* played_table_clear() all the same when it is false. */
bool played_table_read(played_table *to, const played_ask *ask, GError **error);
void played_table_clear(played_table *table);

#endif
