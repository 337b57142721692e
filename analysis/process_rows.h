/* Rows of a loop out of a history, for a model of what it regulates: what is driven in each tick, and what is measured
 * where it is new. */
#ifndef ANALYSIS_PROCESS_ROWS_H
#define ANALYSIS_PROCESS_ROWS_H

#include "process.h"

#include "runtime/history.h"

typedef struct rgp_process_rows {
    double *driven,
        *value; /* by row, one a tick; NAN: no new reading, none that is to be trusted, or a row is missing */
    size_t rows, readings;
    size_t held;    /* rows in which its loop drove */
    double row_s;   /* seconds from row to row */
    double step_s;  /* seconds from one step of the loop to the next, on average */
    double begin_s; /* of the first row */
    double held_by; /* its proportional gain, below 0 of one that is reversed, where that loop drove in nearly all of
                       them; 0: it did not, or has none */
} rgp_process_rows;

/* The names by which the history has to know them: a recording may be of another text. */
typedef struct rgp_process_names {
    const char *loop, *measured, *actuator;
} rgp_process_names;

/* The rows from one to before another; to be cleared. NULL, or the name that the history does not hold. */
const char *rgp_process_rows_of(const rgp_history *h, const rgp_process_names *names, uint64_t from, uint64_t to,
                                rgp_process_rows *rows);
void rgp_process_rows_clear(rgp_process_rows *rows);

static inline rgp_process_data rgp_process_rows_data(const rgp_process_rows *r)
{
    return (rgp_process_data){r->driven, r->value, r->rows, r->row_s};
}

#endif
