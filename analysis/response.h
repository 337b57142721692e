/* A control loop's answer to a test: figures from its recorded course, and a verdict. Each figure has one definition,
 * with a band or an error beside it.
 *
 * The *course* is the running median of the error (measured less target), so that no single reading decides; its window
 * is a quarter of the rise, at least 5 readings (15 where nothing rises). */
#ifndef ANALYSIS_RESPONSE_H
#define ANALYSIS_RESPONSE_H

#include "runtime/history.h"

#include <stdbool.h>

typedef enum rgp_response_test {
    RGP_RESPONSE_STEP,       /* of the setpoint */
    RGP_RESPONSE_DISTURBANCE /* anything else: it is pushed off and comes back */
} rgp_response_test;

typedef struct rgp_response_row {
    double time;   /* seconds */
    double target; /* of the loop, in the measured unit */
    double measured;
    double output; /* what is driven */
    bool saturated;
    bool usable;
    bool stands; /* the loop did not step: no reading was new */
} rgp_response_row;

typedef enum rgp_verdict {
    RGP_VERDICT_SETTLED,   /* within the band for good, as far as can be seen */
    RGP_VERDICT_BACK,      /* the same, but the band is wide, since it moves as much all by itself */
    RGP_VERDICT_TOO_SHORT, /* within the band at the end, but not looked at for long enough: `needs` would do */
    RGP_VERDICT_SWINGS,    /* it swings on and on */
    RGP_VERDICT_OFF,       /* it stays off by the steady error */
    RGP_VERDICT_RESTLESS,  /* it leaves the band again and again */
    RGP_VERDICT_HIDDEN     /* before the test it was off by as much, or by half as much, all by itself */
} rgp_verdict;

/* A figure that the course does not give is NaN: there is no rise when nothing was stepped, no period when nothing
 * swings. `unit` is the measured unit, seconds where nothing is said. */
typedef struct rgp_response {
    double noise;  /* unit; standard deviation from reading to reading, before the test (robust) */
    double before; /* unit; how far the course was from its middle at most, before the test, all by itself */
    double band; /* unit; half the width of what counts as settled: the greatest of 2 % of the step or 10 % of the peak,
                  * 4.5 standard errors of the course, 1.25 times `before`, and 1.5 times the loop's own
                  * tolerance */
    double before_period;              /* of that, where it is a regular swing */
    bool unsettled;                    /* before the test it was on its way somewhere: no rise and no overshoot then */
    double made;                       /* unit; by how much the setpoint was stepped, as recorded */
    double rise;                       /* from 10 to 90 % of that */
    double overshoot, overshoot_error; /* percent of that: the top of a cubic through the readings about the course's
                                        * greatest, beyond the target; ± its standard error. NaN: none was seen */
    double overshoot_under;            /* percent; what would have been seen */
    double settling; /* until the course stays within the band; also called the recovery time after a disturbance */
    double peak;     /* unit; the top as of the overshoot; of a disturbance that of the greatest error */
    double steady, steady_error; /* unit; median of the course at the end, over whole periods; ± */
    double decay, decay_error;   /* of a damped cosine from the first extreme on, see ringing.h; ± */
    double period;               /* of that */
    double iae;                  /* unit times seconds: the integral of the absolute error */
    double effort;               /* output units: all the way that the output went, to and fro */
    double saturated;            /* seconds with a limited output */
    double switchings;           /* an hour, of an output that has only two levels */
    rgp_verdict verdict;
    double needs; /* seconds of looking that would tell; of RGP_VERDICT_TOO_SHORT */
} rgp_response;

/* Rows of one test, which begins at rows[before]; what stands before tells what it does by itself. `size`: of the step
 * that was asked for, in the unit, not 0; else not looked at. `band`: 0: found as above. `tolerance`: the loop's own,
 * or 0. False with too few rows (10 before, 20 behind). */
bool rgp_response_of(const rgp_response_row *row, uint32_t rows, uint32_t before, rgp_response_test test, double size,
                     double band, double tolerance, rgp_response *response);

/* The rows of a loop's course from a history, from a row up to, and not with, another. */
GArray *rgp_response_rows(rgp_history *history, uint32_t loop, uint64_t from, uint64_t to);

/* X(field, name, unit, error): the unit is "s", "%", "m" for the measured unit, "o" for the output's, "ms" for m times
 * s, "/h", or "" for a share; error: the field that stands behind its ±, or `noise` for none */
#define RGP_RESPONSE_LIST(X)                        \
    X(settling, "settling", "s", noise)             \
    X(band, "band", "m", noise)                     \
    X(before, "by itself", "m", noise)              \
    X(rise, "rise", "s", noise)                     \
    X(overshoot, "overshoot", "%", overshoot_error) \
    X(peak, "peak", "m", noise)                     \
    X(steady, "steady error", "m", steady_error)    \
    X(decay, "decay ratio", "", decay_error)        \
    X(period, "period", "s", noise)                 \
    X(iae, "IAE", "ms", noise)                      \
    X(effort, "effort", "o", noise)                 \
    X(saturated, "saturated", "s", noise)           \
    X(switchings, "switchings", "/h", noise)

#endif
