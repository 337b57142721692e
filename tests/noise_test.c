/* Estimates of noise on noise that is known: white, with each reading repeated, rounded, with gaps and spikes, and such
 * that hangs together. */
#include "support.h"

#include "analysis/noise.h"
#include "analysis/noise_kinds.h"

#include <gsl/gsl_blas.h>
#include <gsl/gsl_linalg.h>
#include <gsl/gsl_randist.h>
#include <gsl/gsl_rng.h>
#include <math.h>

#define COUNT 20000u

static double value[COUNT];

static gsl_rng *chance_of(unsigned long seed)
{
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(chance, seed);
    return chance;
}

/* Each of `count` readings stands for `each` values. */
static void put_white(double sigma, size_t each)
{
    gsl_rng *chance = chance_of(7);
    double now = 0.0;
    for (size_t i = 0; i < COUNT; i++) {
        now = i % each == 0 ? 100.0 + gsl_ran_gaussian(chance, sigma) : now;
        value[i] = now;
    }
    gsl_rng_free(chance);
}

static void test_white(void **unused)
{
    (void)unused;
    for (size_t each = 1; each <= 7; each++) {
        put_white(2.0, each);
        assert_near(rgp_noise_of(value, COUNT).sigma, 2.0, 0.06 * sqrt((double)each));
    }
}

/* Gaps of a tenth, spikes of a hundredth, and a slow climb do not matter. */
static void test_disturbed(void **unused)
{
    (void)unused;
    put_white(2.0, 1);
    for (size_t i = 0; i < COUNT; i++) {
        value[i] = i % 10 == 3 ? (double)NAN : value[i] + (i % 100 == 8 ? 500.0 : 0.0) + 1e-3 * (double)i;
    }
    assert_near(rgp_noise_of(value, COUNT).sigma, 2.0, 0.12);
}

/* Rounded readings have at least the noise of their rounding; readings that never change have none, nor have none. */
static void test_rounded(void **unused)
{
    (void)unused;
    put_white(0.05, 1);
    for (size_t i = 0; i < COUNT; i++) {
        value[i] = round(value[i] + 0.45);
    }
    const rgp_noise rounded = rgp_noise_of(value, COUNT);
    assert_near(rounded.step, 1.0, 1e-12);
    assert_near(rounded.sigma, 1.0 / sqrt(12.0), 1e-12);
    for (size_t i = 0; i < COUNT; i++) {
        value[i] = 3.0;
    }
    assert_near(rgp_noise_of(value, COUNT).sigma, 0.0, 0.0);
    for (size_t count = 0; count < 3; count++) {
        value[count] = (double)NAN;
        assert_near(rgp_noise_of(value, count).sigma, 0.0, 0.0);
        assert_near(rgp_noise_coloured(value, count).sigma, 0.0, 0.0);
    }
}

/* A first-order noise is found again, with its spread and what of it holds on, also among spikes. */
static void test_coloured(void **unused)
{
    (void)unused;
    static const double holds[] = {0.0, 0.5, 0.8, 0.9};
    for (size_t k = 0; k < G_N_ELEMENTS(holds); k++) {
        gsl_rng *chance = chance_of(k + 1);
        double now = 0.0;
        for (size_t i = 0; i < COUNT; i++) {
            now = holds[k] * now + gsl_ran_gaussian(chance, 3.0 * sqrt(1.0 - holds[k] * holds[k]));
            value[i] = now + (i % 200 == 8 ? 100.0 : 0.0);
        }
        const rgp_coloured found = rgp_noise_coloured(value, COUNT);
        assert_near(found.sigma, 3.0, 0.45);
        assert_near(found.hold, holds[k], 0.06);
        gsl_rng_free(chance);
    }
}

/* ---- kinds of noise, against matrices written out ---------------------------------------------------- */

#define ROWS    15u
#define COLUMNS 2u

typedef struct written_out {
    gsl_matrix *j, *sigma;
    gsl_vector *residual;
    double lag;
    unsigned kinds;
} written_out;

/* A load that walks, row by row with row: the sum over what each chance before both has come to. */
static double walked(double lag, size_t i, size_t k)
{
    double sum = 0.0;
    for (size_t chance = 0; chance <= MIN(i, k); chance++) {
        sum += (1.0 - exp(-(double)(i - chance + 1) / lag)) * (1.0 - exp(-(double)(k - chance + 1) / lag));
    }
    return sum;
}

static void put_sigma(const written_out *w, const rgp_noise_kind *kind)
{
    double mean = 0.0;
    for (size_t i = 0; i < ROWS; i++) {
        mean += walked(w->lag, i, i) / ROWS;
    }
    for (size_t i = 0; i < ROWS; i++) {
        for (size_t k = 0; k < ROWS; k++) {
            const double apart = fabs((double)i - (double)k), held = pow(kind->correlation, 3.0 * apart);
            gsl_matrix_set(w->sigma, i, k,
                           kind->load * walked(w->lag, i, k) / mean +
                               (1.0 - kind->load) * ((i == k ? kind->white : 0.0) + (1.0 - kind->white) * held));
        }
    }
}

/* The restricted likelihood by the inverse of Sigma, and the sums by Sigma itself. */
static void check_kind(void *self, const rgp_noise_kind *kind)
{
    written_out *w = self;
    gsl_matrix *inverse = gsl_matrix_alloc(ROWS, ROWS), *half = gsl_matrix_alloc(ROWS, COLUMNS),
               *inner = gsl_matrix_alloc(COLUMNS, COLUMNS), *spread = gsl_matrix_alloc(COLUMNS, COLUMNS);
    gsl_vector *r = gsl_vector_alloc(ROWS), *b = gsl_vector_alloc(COLUMNS), *x = gsl_vector_alloc(COLUMNS);
    double determinant = 0.0, squares, taken;
    put_sigma(w, kind);
    gsl_blas_dgemm(CblasNoTrans, CblasNoTrans, kind->size, w->sigma, w->j, 0.0, half);
    gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, w->j, half, 0.0, spread);
    gsl_matrix_memcpy(inverse, w->sigma);
    gsl_linalg_cholesky_decomp1(inverse);
    for (size_t i = 0; i < ROWS; i++) {
        determinant += 2.0 * log(gsl_matrix_get(inverse, i, i));
    }
    gsl_linalg_cholesky_invert(inverse);
    gsl_blas_dgemm(CblasNoTrans, CblasNoTrans, 1.0, inverse, w->j, 0.0, half);
    gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, w->j, half, 0.0, inner);
    gsl_blas_dgemv(CblasTrans, 1.0, half, w->residual, 0.0, b);
    gsl_blas_dgemv(CblasNoTrans, 1.0, inverse, w->residual, 0.0, r);
    gsl_blas_ddot(r, w->residual, &squares);
    gsl_linalg_cholesky_decomp1(inner);
    gsl_linalg_cholesky_solve(inner, b, x);
    gsl_blas_ddot(b, x, &taken);
    const double size = (squares - taken) / (ROWS - COLUMNS),
                 weight = -0.5 * (determinant + 2.0 * log(gsl_matrix_get(inner, 0, 0) * gsl_matrix_get(inner, 1, 1)) +
                                  (ROWS - COLUMNS) * log(size)),
                 first = w->kinds == 0 ? log(40.0) : 0.0;
    assert_near(kind->size / size, 1.0, 1e-6);
    assert_near(kind->weight, weight + first, 1e-6);
    for (size_t i = 0; i < COLUMNS * COLUMNS; i++) {
        const double is = gsl_matrix_get(kind->spread, i / COLUMNS, i % COLUMNS);
        assert_near(is, gsl_matrix_get(spread, i / COLUMNS, i % COLUMNS), 1e-9 * fabs(is) + 1e-12);
    }
    w->kinds++;
    gsl_matrix *const matrix[] = {inverse, half, inner, spread};
    gsl_vector *const vector[] = {r, b, x};
    for (size_t i = 0; i < G_N_ELEMENTS(matrix); i++) {
        gsl_matrix_free(matrix[i]);
    }
    for (size_t i = 0; i < G_N_ELEMENTS(vector); i++) {
        gsl_vector_free(vector[i]);
    }
}

static void test_kinds(void **unused)
{
    (void)unused;
    written_out w = {.j = gsl_matrix_alloc(ROWS, COLUMNS),
                     .sigma = gsl_matrix_alloc(ROWS, ROWS),
                     .residual = gsl_vector_alloc(ROWS),
                     .lag = 4.0};
    gsl_rng *chance = chance_of(3);
    for (size_t i = 0; i < ROWS; i++) {
        gsl_matrix_set(w.j, i, 0, 1.0);
        gsl_matrix_set(w.j, i, 1, exp(-(double)i / 5.0));
        gsl_vector_set(w.residual, i, gsl_ran_gaussian(chance, 2.0));
    }
    rgp_noise_kinds(&(rgp_noise_rows){w.j, w.residual, 1.0, 3.0, w.lag}, w.j, check_kind, &w);
    assert_int_equal(w.kinds, 8 * 41);
    gsl_rng_free(chance);
    gsl_matrix_free(w.j);
    gsl_matrix_free(w.sigma);
    gsl_vector_free(w.residual);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_white),    cmocka_unit_test(test_disturbed), cmocka_unit_test(test_rounded),
        cmocka_unit_test(test_coloured), cmocka_unit_test(test_kinds),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
