/* A control loop's answer to a test: figures from its recorded course. */
#ifndef ANALYSIS_RESPONSE_H
#define ANALYSIS_RESPONSE_H

#include "record/history.h"

#include <stdbool.h>

typedef enum rp_response_test {
    RP_RESPONSE_STEP,       /* of the setpoint */
    RP_RESPONSE_DISTURBANCE /* anything else: it is pushed off and comes back */
} rp_response_test;

typedef struct rp_response_row {
    double time;   /* seconds */
    double target; /* of the loop, in the measured unit */
    double measured;
    double output; /* what is driven */
    bool saturated;
    bool usable;
} rp_response_row;

/* A figure that the course does not give is NaN: there is no rise when nothing was stepped, no period when nothing
 * swings. `unit` is the measured unit, seconds where nothing is said. */
typedef struct rp_response {
    double noise;     /* unit; standard deviation from reading to reading, before the test */
    double band;      /* unit; half the width of what counts as settled */
    double rise;      /* from 10 to 90 % of the step */
    double overshoot; /* percent of the step; 0 when it never went beyond */
    double settling;  /* until it stays within the band; also called the recovery time after a disturbance */
    double peak;      /* unit; the greatest error, of a step beyond it the overshoot as a number */
    double steady;    /* unit; mean error in the last tenth */
    double decay;     /* each swing to the same side as a share of the one before */
    double period;    /* of those swings */
    double iae;       /* unit times seconds: the integral of the absolute error */
    double effort;    /* output units: all the way that the output went, to and fro */
    double saturated; /* seconds with a limited output */
    bool settles;     /* it stays within the band from `settling` on, for at least a tenth of the course */
} rp_response;

/* Rows of one test, which begins at rows[before]; what stands before tells the noise. `size`: of the step, in the
 * unit, not 0; else not looked at. `band`: 0 takes the greatest of 2 % of the step, or 10 % of the peak, and three
 * times the noise. False with too few rows (10 before, 20 behind). */
bool rp_response_of(const rp_response_row *row, uint32_t rows, uint32_t before, rp_response_test test, double size,
                    double band, rp_response *response);

/* The rows of a loop's course from a history, from a row up to, and not with, another. */
GArray *rp_response_rows(rp_history *history, uint32_t loop, uint64_t from, uint64_t to);

/* X(field, name, unit: "s", "%", the measured unit "m", the output's "o", "ms" for m times s, "" for a share) */
#define RP_RESPONSE_LIST(X)        \
    X(rise, "rise", "s")           \
    X(overshoot, "overshoot", "%") \
    X(settling, "settling", "s")   \
    X(peak, "peak", "m")           \
    X(steady, "steady error", "m") \
    X(decay, "decay ratio", "")    \
    X(period, "period", "s")       \
    X(iae, "IAE", "ms")            \
    X(effort, "effort", "o")       \
    X(saturated, "saturated", "s")

#endif
