/* The kinds of noise that a fit's residuals may be made of: white, of first order, and a load that walks by chance and
 * is seen through a lag; each weighed by its restricted likelihood (Patterson and Thompson 1971). */
#ifndef ANALYSIS_NOISE_KINDS_H
#define ANALYSIS_NOISE_KINDS_H

#include <gsl/gsl_matrix.h>
#include <gsl/gsl_vector.h>

/* Evenly spaced rows of what a fit left over, and of its derivatives, each a mean of some ticks. */
typedef struct rgp_noise_rows {
    const gsl_matrix *j;        /* rows by parameters */
    const gsl_vector *residual; /* by row */
    double row_s;               /* seconds from row to row */
    double ticks;               /* of a row */
    double lag;                 /* seconds: what a load that walks is seen through */
} rgp_noise_rows;

typedef struct rgp_noise_kind {
    const gsl_matrix *sigma; /* rows by rows: what noise of this kind does to them, of a mean size of 1 */
    double size;             /* times that */
    double weight;           /* the logarithm of its likelihood, and of how likely it is beforehand */
    double load;             /* the share of the load */
} rgp_noise_kind;

/* Calls for each of the kinds, the same on each call. */
void rgp_noise_kinds(const rgp_noise_rows *rows, void (*each)(void *self, const rgp_noise_kind *kind), void *self);

/* The plain estimate's covariance under that noise, parameters by parameters: H J' Sigma J H, with H the inverse of
 * J'J. Nonzero where J'J has none. */
int rgp_noise_covariance(const gsl_matrix *j, const gsl_matrix *sigma, double size, gsl_matrix *to);

#endif
