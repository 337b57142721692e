/* A table of readings that a sensor plays. Its rows are moments: from each on, its reading is the newest until the next
 * one; the last holds as long as the one before it did, a single one for a tick. Recordings of this project are tables:
 * what their column `samples` calls the same is no new reading, what is missing there is missing here, and the edges in
 * the file of their events are moments of their own. */
#ifndef SIM_SENSORS_PLAYED_H
#define SIM_SENSORS_PLAYED_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

typedef struct played played;

typedef struct played_ask {
    const char *path;
    const char *sensor; /* its name */
    char **word;        /* what its readings are called, from 0, beside their numbers; ends with a NULL */
    const char *column; /* NULL: that of the sensor's name, else the only one */
    bool again;         /* behind its end it begins anew */
    uint32_t tick_us;
} played_ask;

/* NULL with *error when the table cannot be read, or does not fit. */
played *played_new(const played_ask *ask, GError **error);
void played_free(played *p);

/* The number of the newest row by then, counted on through every repetition; 0: the first is yet to come. */
int64_t played_row_by(const played *p, uint64_t time_us);

/* The moment of a row by that number, from 1. */
uint64_t played_moment(const played *p, int64_t row);

/* Its reading in counts; a NaN where it is missing. */
double played_value(const played *p, int64_t row);

/* The mean of the readings of the `lasting_us` up to then; of 0 us, the newest one. A NaN where that is missing, before
 * the first row and behind the end. */
double played_mean(const played *p, uint64_t time_us, uint64_t lasting_us);

/* Mean seconds from one row to the next; 0: there is only one. */
double played_pace(const played *p);

/* The standard deviation of what changes from one reading to the next, in counts; 0: it cannot be told. */
double played_noise(const played *p);

/* The unit behind the column's name; "" for none. */
const char *played_unit(const played *p);

#endif
