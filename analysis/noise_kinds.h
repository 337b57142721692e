/* The kinds of noise that a fit's residuals may be made of: white, of first order, and a load that walks by chance and
 * is seen through a lag; each weighed by its restricted likelihood (Patterson and Thompson 1971).
 *
 *   load[k] = load[k-1] + chance,  seen[k] = a seen[k-1] + (1 - a) load[k],  a = e^(-row / lag)
 *   held[k] = rho held[k-1] + chance,  rho = correlation of a tick ^ ticks of a row
 *   noise = seen + held + white
 *
 * The likelihood is that of what a filter for these states leaves unexpected (Kalman 1960; Schweppe 1965), so it costs
 * a time that grows with the rows, and not with their cube. */
#ifndef ANALYSIS_NOISE_KINDS_H
#define ANALYSIS_NOISE_KINDS_H

#include <gsl/gsl_matrix.h>
#include <gsl/gsl_vector.h>

/* Evenly spaced rows of what a fit left over, and of its derivatives, each a mean of some ticks. */
typedef struct rgp_noise_rows {
    const gsl_matrix *j;        /* rows by parameters, none of which the others make up */
    const gsl_vector *residual; /* by row */
    double row_s;               /* seconds from row to row */
    double ticks;               /* of a row */
    double lag;                 /* seconds: what a load that walks is seen through */
} rgp_noise_rows;

typedef struct rgp_noise_kind {
    double correlation, white, load; /* of a tick; share of the noise without load that is white; share of the load */
    double size;                     /* the mean variance of a row */
    double weight;                   /* the logarithm of its likelihood, and of how likely it is beforehand */
    const gsl_matrix *spread;        /* columns by columns: `of`' Sigma `of` under it */
} rgp_noise_kind;

/* Calls for each of the kinds, the same on each call. `of`: rows by any columns, whose sums are of interest; the
 * derivatives themselves, or what they are a basis of. */
void rgp_noise_kinds(const rgp_noise_rows *rows, const gsl_matrix *of,
                     void (*each)(void *self, const rgp_noise_kind *kind), void *self);

/* The mean of that spread over all kinds, by their likelihood: columns by columns. */
void rgp_noise_spread(const rgp_noise_rows *rows, const gsl_matrix *of, gsl_matrix *to);

#endif
