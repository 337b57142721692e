/* A swing that dies away: a damped cosine about a midline that is found with it,
 *
 *   value = middle + e^(-rate t) (a cos(2 pi t / period) + b sin(2 pi t / period))
 *
 * by least squares: the linear numbers by projection (Golub and Pereyra, 1973), the other two by a simplex (Nelder and
 * Mead, 1965). */
#ifndef ANALYSIS_RINGING_H
#define ANALYSIS_RINGING_H

#include <stdbool.h>
#include <stdint.h>

typedef struct rgp_ringing {
    double ratio;       /* each swing to the same side, as a share of the one before: e^(-rate period) */
    double ratio_error; /* its standard error */
    double period;      /* seconds */
    double height;      /* at t = 0, from the middle */
    double middle;
    double residual; /* root mean square of what the curve does not explain */
} rgp_ringing;

/* Begins from `ratio` and `period`; `independent`: how many of the values count as independent of one another. False
 * when there are fewer than ten values, or no curve fits better than its middle alone. */
bool rgp_ringing_fit(const double *time, const double *value, uint32_t count, double independent, double ratio,
                     double period, rgp_ringing *found);

/* The height of the line at a period in some values, a straight line taken out, and its standard error. */
double rgp_line_at(const double *time, const double *value, uint32_t count, double period, double *error);

#endif
