/* The likelihood of each kind of noise, by its covariance from row to row. */
#include "noise_kinds.h"

#include <gsl/gsl_blas.h>
#include <gsl/gsl_linalg.h>

#include <glib.h>
#include <math.h>
#include <stdbool.h>

#define WHITE_FIRST 40.0 /* times as likely beforehand as any other kind */

/* A load that walks by chance, as it is seen behind the lag, in each row with each: its mean diagonal is 1. */
static gsl_matrix *walk_matrix(const rgp_noise_rows *r)
{
    const size_t rows = r->j->size1;
    gsl_matrix *to = gsl_matrix_calloc(rows, rows);
    g_autofree double *answered = g_malloc_n(rows + 1, sizeof *answered);
    double sum = 0.0;
    for (size_t i = 0; i <= rows; i++) {
        answered[i] = 1.0 - exp(-r->row_s / r->lag * (double)i);
    }
    for (size_t i = 0; i < rows; i++) {
        for (size_t k = 0; k <= i; k++) {
            double is = 0.0;
            for (size_t step = 0; step <= k; step++) {
                is += answered[i - step + 1] * answered[k - step + 1];
            }
            gsl_matrix_set(to, i, k, is);
            gsl_matrix_set(to, k, i, is);
        }
        sum += gsl_matrix_get(to, i, i);
    }
    gsl_matrix_scale(to, sum > 0.0 ? (double)rows / sum : 0.0);
    return to;
}

/* White, of first order, and walking, in these shares. */
static void noise_matrix(const rgp_noise_rows *r, const gsl_matrix *walk, double correlation, double white, double load,
                         gsl_matrix *to)
{
    const size_t rows = r->j->size1;
    const double rho = pow(correlation, r->ticks);
    g_autofree double *held = g_malloc_n(rows + 1, sizeof *held); /* by distance, of what holds on */
    held[0] = 1.0;
    for (size_t i = 0; i < rows; i++) {
        held[i + 1] = held[i] * rho;
        for (size_t k = 0; k <= i; k++) {
            const double is = load * gsl_matrix_get(walk, i, k) +
                              (1.0 - load) * ((i == k ? white : 0.0) + (1.0 - white) * held[i - k]);
            gsl_matrix_set(to, i, k, is);
            gsl_matrix_set(to, k, i, is);
        }
    }
}

static double log_determinant(const gsl_matrix *factor)
{
    double sum = 0.0;
    for (size_t i = 0; i < factor->size1; i++) {
        sum += 2.0 * log(gsl_matrix_get(factor, i, i));
    }
    return sum;
}

/* The restricted likelihood of noise of that kind, and its size. False where it is none. */
static bool likelihood_of(const rgp_noise_rows *r, const gsl_matrix *sigma, double *likelihood, double *size)
{
    const size_t rows = r->j->size1, parts = r->j->size2;
    gsl_matrix *factor = gsl_matrix_alloc(rows, rows), *solved = gsl_matrix_alloc(rows, parts),
               *inner = gsl_matrix_alloc(parts, parts);
    gsl_vector *left = gsl_vector_alloc(rows), *b = gsl_vector_alloc(parts), *x = gsl_vector_alloc(parts);
    gsl_matrix_memcpy(factor, sigma);
    gsl_matrix_memcpy(solved, r->j);
    gsl_vector_memcpy(left, r->residual);
    bool sound = gsl_linalg_cholesky_decomp1(factor) == 0;
    if (sound) {
        gsl_blas_dtrsm(CblasLeft, CblasLower, CblasNoTrans, CblasNonUnit, 1.0, factor, solved);
        gsl_blas_dtrsv(CblasLower, CblasNoTrans, CblasNonUnit, factor, left);
        gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, solved, solved, 0.0, inner);
        gsl_blas_dgemv(CblasTrans, 1.0, solved, left, 0.0, b);
        sound = gsl_linalg_cholesky_decomp1(inner) == 0 && gsl_linalg_cholesky_solve(inner, b, x) == 0;
    }
    if (sound) {
        double squares, taken;
        gsl_blas_ddot(left, left, &squares);
        gsl_blas_ddot(b, x, &taken);
        const double freedom = (double)(rows - parts);
        *size = fmax(squares - taken, 1e-300) / freedom;
        *likelihood = -0.5 * (log_determinant(factor) + log_determinant(inner) + freedom * log(*size));
    }
    gsl_matrix_free(factor);
    gsl_matrix_free(solved);
    gsl_matrix_free(inner);
    gsl_vector_free(left);
    gsl_vector_free(b);
    gsl_vector_free(x);
    return sound;
}

int rgp_noise_covariance(const gsl_matrix *j, const gsl_matrix *sigma, double size, gsl_matrix *to)
{
    gsl_matrix *h = gsl_matrix_alloc(j->size2, j->size2), *jh = gsl_matrix_alloc(j->size1, j->size2),
               *sjh = gsl_matrix_alloc(j->size1, j->size2);
    gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, j, j, 0.0, h);
    const bool sound = gsl_linalg_cholesky_decomp1(h) == 0 && gsl_linalg_cholesky_invert(h) == 0;
    if (sound) {
        gsl_blas_dgemm(CblasNoTrans, CblasNoTrans, 1.0, j, h, 0.0, jh);
        gsl_blas_dgemm(CblasNoTrans, CblasNoTrans, size, sigma, jh, 0.0, sjh);
        gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, jh, sjh, 0.0, to);
    }
    gsl_matrix_free(h);
    gsl_matrix_free(jh);
    gsl_matrix_free(sjh);
    return sound ? 0 : -1;
}

void rgp_noise_kinds(const rgp_noise_rows *r, void (*each)(void *self, const rgp_noise_kind *kind), void *self)
{
    static const double correlation[] = {0.0, 0.3, 0.6, 0.8, 0.9, 0.95, 0.975, 0.99, 0.997},
                        white[] = {0.0, 0.15, 0.4, 0.7, 0.9}, load[] = {0.0, 0.001, 0.003, 0.01, 0.03, 0.1, 0.3, 0.6};
    gsl_matrix *walk = walk_matrix(r), *sigma = gsl_matrix_alloc(r->j->size1, r->j->size1);
    for (size_t i = 0; i < G_N_ELEMENTS(correlation); i++) {
        for (size_t w = 0; w < (i == 0 ? 1 : G_N_ELEMENTS(white)); w++) { /* without a correlation all of it is white */
            for (size_t k = 0; k < G_N_ELEMENTS(load); k++) {
                double likelihood, size;
                noise_matrix(r, walk, correlation[i], i == 0 ? 1.0 : white[w], load[k], sigma);
                if (likelihood_of(r, sigma, &likelihood, &size)) {
                    const double first = i == 0 && load[k] <= 0.0 ? log(WHITE_FIRST) : 0.0;
                    each(self, &(rgp_noise_kind){sigma, size, likelihood + first, load[k]});
                }
            }
        }
    }
    gsl_matrix_free(walk);
    gsl_matrix_free(sigma);
}
