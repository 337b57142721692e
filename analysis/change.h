/* A sensor's answer when an actuator is driven, and its direction: what it does then, against where it was going at
 * rest. */
#ifndef ANALYSIS_CHANGE_H
#define ANALYSIS_CHANGE_H

#include "runtime/history.h"

typedef struct rgp_change {
    bool known; /* there were readings enough at rest and after */
    bool changed;
    double by;    /* in the sensor's unit, in the last third of the time, from where the line at rest leads */
    double noise; /* deviation of the readings at rest about that line */
    double after; /* seconds from the first tick of driving until it left that line for good */
} rgp_change;

#define RGP_CHANGE_READINGS_LEAST 8u

/* A change up to `least` is none: what rounding can do to a number, less than 1 for a switch. Rows `rest` up to `from`
 * were at rest, rows `from` up to `to` were driven. */
rgp_change rgp_change_of(const rgp_history *history, uint32_t column, double least, uint64_t rest, uint64_t from,
                         uint64_t to);

#endif
