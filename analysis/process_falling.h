/* Inside the fits of a process that falls: a fit under way, and its parts. */
#ifndef ANALYSIS_PROCESS_FALLING_H
#define ANALYSIS_PROCESS_FALLING_H

#include "process_parts.h"

#define FALLING_NEVER 1e300

enum { OF_DRIVEN, OF_ONE, SHARED };

/* A movement of its own. */
typedef struct own {
    double rise, fall;
} own;

typedef struct falling {
    const rgp_process_data *d;
    size_t piece;          /* rows */
    size_t from, to;       /* rows that the numbers are from */
    double *answer;        /* by row, of a gain of 1, from rest at the beginning of each piece */
    own *own;              /* by row of a piece: as foresee() has put it */
    double linear[SHARED]; /* gain and balance of the last shape */
} falling;

/* ---- process_falling.c ---------------------------------------------------------------------------- */

/* The first of those stretches of so many rows in which it moves most, or all of it: the loop drives to and fro all the
 * time, by the noise of its readings. */
rgp_process_data process_falling_busy(const rgp_process_data *all, size_t rows);

/* ---- process_pieces.c ---------------------------------------------------------------------------- */

/* The answer with a shape, a logarithm of the lag and a dead time, and a gain of 1. */
void process_falling_answer(falling *f, const double *shape);

/* Takes both ways in which it moves by itself out of a column, by the least squares of each piece; rows that were not
 * measured become 0. */
void process_falling_project(falling *f, double lag, double *column);

/* The beginnings of all pieces, with the shape that was searched last. To be freed. */
own *process_falling_beginnings(falling *f, double lag);

/* The movement with a shape, by row. */
void process_falling_fitted(falling *f, const double *shape, const own *beginning, double *to);

/* ---- process_falling_told.c ---------------------------------------------------------------------- */

/* All that is told, of the numbers that were found, with their standard errors. */
void process_falling_tell(falling *f, const double *shape, const double *error, rgp_process *to);

/* Gain, lag, dead time and balance of a shape, with their intervals. */
void process_falling_numbers(const double *shape, const double *linear, const double *error, double tick,
                             rgp_process *to);

/* ---- process_innovations.c: each reading by those before it -------------------------------------- */

enum { FALLING_GAIN, FALLING_BALANCE, FALLING_LAG, FALLING_DEAD, FALLING_NUMBERS };

/* From a shape that need not be right: the shape, gain and balance (OF_DRIVEN, OF_ONE), and the standard errors of the
 * four, of the lag as a logarithm. False: there are too few rows, or too little is driven. */
bool process_innovations(const rgp_process_data *data, double *shape, double *linear, double *error);

/* The lag alone, in seconds, to which one search from another comes: of what does not fall it grows beyond all that
 * the rows show. INFINITY: none is found. */
double process_innovations_lag(const rgp_process_data *data, double lag);

#endif
