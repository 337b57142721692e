/* The doubt of a fitted process: the plain estimate under noise that hangs together. */
#include "process_parts.h"

#include <gsl/gsl_blas.h>
#include <gsl/gsl_cdf.h>
#include <gsl/gsl_linalg.h>

#include <math.h>
#include <string.h>

#define BLOCKS_MOST 134u /* rows that intervals are worked out from */
#define PARTS_MOST  (PROCESS_LINEAR + PROCESS_SHAPES)

/* ---- how sure -------------------------------------------------------------------------------------- */

static void add_derivative(fitting *f, const double *shape, size_t which, double step, double *to)
{
    double up[PROCESS_SHAPES], down[PROCESS_SHAPES];
    memcpy(up, shape, sizeof up);
    memcpy(down, shape, sizeof down);
    up[which] += step;
    down[which] = which == 1 ? fmax(0.0, shape[1] - step) : shape[which] - step;
    const double gain = f->linear[0];
    g_autofree double *other = g_malloc0_n(f->data->count, sizeof *other);
    const rgp_plant above = process_plant(f, up), below = process_plant(f, down);
    rgp_process_answer(&above, f->data, to);
    rgp_process_answer(&below, f->data, other);
    for (size_t k = 0; k < f->data->count; k++) {
        to[k] = gain * (to[k] - other[k]) / (up[which] - down[which]) +
                (which == 0 && f->kind != RGP_PROCESS_INTEGRAL
                     ? f->linear[2] * (process_beginning(f, exp(up[0]), k) - process_beginning(f, exp(down[0]), k)) /
                           (2.0 * step)
                     : 0.0);
    }
}

static void take_mean(const linearised *l, const double *from, const double *measured, size_t count, size_t column,
                      bool residual)
{
    const size_t each = (count + l->rows - 1) / l->rows;
    for (size_t row = 0; row < l->rows; row++) {
        double sum = 0.0, n = 0.0;
        for (size_t k = row * each; k < MIN(count, (row + 1) * each); k++) {
            sum += isnan(measured[k]) ? 0.0 : from[k];
            n += isnan(measured[k]) ? 0.0 : 1.0;
        }
        if (residual) {
            gsl_vector_set(l->residual, row, n > 0.0 ? sum / n : 0.0);
        } else {
            gsl_matrix_set(l->j, row, column, n > 0.0 ? sum / n : 0.0);
        }
    }
}

static linearised linearise(fitting *f, const double *shape)
{
    const rgp_process_data *d = f->data;
    const size_t each = (d->count + BLOCKS_MOST - 1) / BLOCKS_MOST, rows = (d->count + each - 1) / each;
    const bool integral = f->kind == RGP_PROCESS_INTEGRAL;
    linearised l = {.rows = rows,
                    .parts = PROCESS_LINEAR + (integral ? 1 : process_shapes(f->kind)),
                    .tick = (double)each * d->tick,
                    .ticks_a_row = (double)each};
    g_autofree double *column = g_malloc0_n(d->count, sizeof *column);
    l.j = gsl_matrix_calloc(rows, l.parts);
    l.residual = gsl_vector_calloc(rows);
    process_squares(f, shape);
    for (size_t k = 0; k < d->count; k++) {
        column[k] = d->measured[k] - f->linear[0] * f->answer[k] - f->linear[1] -
                    f->linear[2] * process_beginning(f, exp(shape[0]), k);
    }
    take_mean(&l, column, d->measured, d->count, 0, true);
    take_mean(&l, f->answer, d->measured, d->count, 0, false);
    for (size_t k = 0; k < d->count; k++) {
        column[k] = 1.0;
    }
    take_mean(&l, column, d->measured, d->count, 1, false);
    for (size_t k = 0; k < d->count; k++) {
        column[k] = process_beginning(f, exp(shape[0]), k);
    }
    take_mean(&l, column, d->measured, d->count, 2, false);
    for (size_t i = PROCESS_LINEAR; i < l.parts; i++) {
        const size_t which = integral ? 1 : i - PROCESS_LINEAR;
        add_derivative(f, shape, which, which == 1 ? d->tick / 2.0 : 0.01, column);
        take_mean(&l, column, d->measured, d->count, i, false);
    }
    return l;
}

/* A load that walks by chance, as it is seen behind the lag, in each row with each: its mean diagonal is 1. */
static gsl_matrix *walk_matrix(const linearised *l, double lag)
{
    gsl_matrix *to = gsl_matrix_calloc(l->rows, l->rows);
    g_autofree double *answered = g_malloc_n(l->rows + 1, sizeof *answered);
    double sum = 0.0;
    for (size_t i = 0; i <= l->rows; i++) {
        answered[i] = 1.0 - exp(-l->tick / lag * (double)i);
    }
    for (size_t i = 0; i < l->rows; i++) {
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
    gsl_matrix_scale(to, sum > 0.0 ? (double)l->rows / sum : 0.0);
    return to;
}

/* White, of first order, and walking, in these shares. */
static void noise_matrix(const linearised *l, const gsl_matrix *walk, double correlation, double white, double load,
                         gsl_matrix *to)
{
    const double rho = pow(correlation, l->ticks_a_row);
    g_autofree double *held = g_malloc_n(l->rows + 1, sizeof *held); /* by distance, of what holds on */
    held[0] = 1.0;
    for (size_t i = 0; i < l->rows; i++) {
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
static bool likelihood_of(const linearised *l, const gsl_matrix *sigma, double *likelihood, double *size)
{
    gsl_matrix *factor = gsl_matrix_alloc(l->rows, l->rows), *solved = gsl_matrix_alloc(l->rows, l->parts),
               *inner = gsl_matrix_alloc(l->parts, l->parts);
    gsl_vector *r = gsl_vector_alloc(l->rows), *b = gsl_vector_alloc(l->parts), *x = gsl_vector_alloc(l->parts);
    gsl_matrix_memcpy(factor, sigma);
    gsl_matrix_memcpy(solved, l->j);
    gsl_vector_memcpy(r, l->residual);
    bool sound = gsl_linalg_cholesky_decomp1(factor) == 0;
    if (sound) {
        gsl_blas_dtrsm(CblasLeft, CblasLower, CblasNoTrans, CblasNonUnit, 1.0, factor, solved);
        gsl_blas_dtrsv(CblasLower, CblasNoTrans, CblasNonUnit, factor, r);
        gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, solved, solved, 0.0, inner);
        gsl_blas_dgemv(CblasTrans, 1.0, solved, r, 0.0, b);
        sound = gsl_linalg_cholesky_decomp1(inner) == 0 && gsl_linalg_cholesky_solve(inner, b, x) == 0;
    }
    if (sound) {
        double squares, taken;
        gsl_blas_ddot(r, r, &squares);
        gsl_blas_ddot(b, x, &taken);
        const double freedom = (double)(l->rows - l->parts);
        *size = fmax(squares - taken, 1e-300) / freedom;
        *likelihood = -0.5 * (log_determinant(factor) + log_determinant(inner) + freedom * log(*size));
    }
    gsl_matrix_free(factor);
    gsl_matrix_free(solved);
    gsl_matrix_free(inner);
    gsl_vector_free(r);
    gsl_vector_free(b);
    gsl_vector_free(x);
    return sound;
}

/* The plain estimate's covariance under that noise: H J' Sigma J H, with H of J'J. */
static bool covariance_of(const linearised *l, const gsl_matrix *sigma, double size, gsl_matrix *to)
{
    gsl_matrix *h = gsl_matrix_alloc(l->parts, l->parts), *jh = gsl_matrix_alloc(l->rows, l->parts),
               *sjh = gsl_matrix_alloc(l->rows, l->parts);
    gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, l->j, l->j, 0.0, h);
    const bool sound = gsl_linalg_cholesky_decomp1(h) == 0 && gsl_linalg_cholesky_invert(h) == 0;
    if (sound) {
        gsl_blas_dgemm(CblasNoTrans, CblasNoTrans, 1.0, l->j, h, 0.0, jh);
        gsl_blas_dgemm(CblasNoTrans, CblasNoTrans, size, sigma, jh, 0.0, sjh);
        gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, jh, sjh, 0.0, to);
    }
    gsl_matrix_free(h);
    gsl_matrix_free(jh);
    gsl_matrix_free(sjh);
    return sound;
}

/* ---- mixtures -------------------------------------------------------------------------------------- */

static double below(const GArray *all, int which, double x)
{
    double sum = 0.0;
    for (guint i = 0; i < all->len; i++) {
        const component *c = &g_array_index(all, component, i);
        sum += c->weight * gsl_cdf_tdist_P((x - c->value[which]) / fmax(c->error[which], 1e-300), c->freedom);
    }
    return sum;
}

static double quantile(const GArray *all, int which, double share)
{
    double low = INFINITY, high = -INFINITY;
    for (guint i = 0; i < all->len; i++) {
        const component *c = &g_array_index(all, component, i);
        low = fmin(low, c->value[which] - 60.0 * c->error[which]);
        high = fmax(high, c->value[which] + 60.0 * c->error[which]);
    }
    for (int i = 0; i < 100; i++) {
        const double middle = low + (high - low) / 2.0;
        *(below(all, which, middle) < share ? &low : &high) = middle;
    }
    return low + (high - low) / 2.0;
}

rgp_estimate process_estimate(const GArray *all, int which)
{
    return (rgp_estimate){quantile(all, which, 0.5), quantile(all, which, 0.025), quantile(all, which, 0.975)};
}

/* ---- one model ------------------------------------------------------------------------------------- */

static double variance_of_sum(const gsl_matrix *cov, const model *m)
{
    double by[PARTS_MOST] = {0}, sum = 0.0;
    const size_t parts = cov->size1;
    if (m->f.kind == RGP_PROCESS_INTEGRAL) {
        by[PROCESS_LINEAR] = 1.0;
    } else {
        by[PROCESS_LINEAR] = (m->f.kind == RGP_PROCESS_TWIN ? 2.0 : 1.0) * exp(m->shape[0]);
        by[PROCESS_LINEAR + 1] = 1.0;
        by[PROCESS_LINEAR + 2] = m->f.kind == RGP_PROCESS_LAGS ? exp(m->shape[2]) : 0.0;
    }
    for (size_t i = 0; i < parts; i++) {
        for (size_t k = 0; k < parts; k++) {
            sum += by[i] * by[k] * gsl_matrix_get(cov, i, k);
        }
    }
    return sum;
}

static component component_of(const model *m, const linearised *l, const gsl_matrix *cov)
{
    const bool integral = m->f.kind == RGP_PROCESS_INTEGRAL;
    const double lag = integral ? 0.0 : exp(m->shape[0]),
                 second = m->f.kind == RGP_PROCESS_LAGS   ? exp(m->shape[2])
                          : m->f.kind == RGP_PROCESS_TWIN ? lag
                                                          : 0.0,
                 dead = m->shape[1], half_tick = m->f.data->tick / 2.0;
    component c = {.value = {m->f.linear[0], lag + second + dead, m->shape[0], dead},
                   .freedom = (double)(l->rows - l->parts)};
    const size_t dead_at = integral ? PROCESS_LINEAR : PROCESS_LINEAR + 1;
    c.error[OF_GAIN] = sqrt(gsl_matrix_get(cov, 0, 0));
    c.error[OF_SUM] = sqrt(variance_of_sum(cov, m) + half_tick * half_tick);
    c.error[OF_LAG] = integral ? 0.0 : sqrt(gsl_matrix_get(cov, PROCESS_LINEAR, PROCESS_LINEAR));
    c.error[OF_DEAD] = sqrt(gsl_matrix_get(cov, dead_at, dead_at) + half_tick * half_tick);
    return c;
}

/* The estimate under all kinds of noise, each by its likelihood; white noise is forty times as likely beforehand. */
static void add_doubts(model *m, const linearised *l)
{
    static const double correlation[] = {0.0, 0.3, 0.6, 0.8, 0.9, 0.95, 0.975, 0.99, 0.997},
                        white[] = {0.0, 0.15, 0.4, 0.7, 0.9}, load[] = {0.0, 0.001, 0.003, 0.01, 0.03, 0.1, 0.3, 0.6};
    gsl_matrix *walk = walk_matrix(l, m->f.kind == RGP_PROCESS_INTEGRAL ? 1e6 * l->tick : exp(m->shape[0])),
               *sigma = gsl_matrix_alloc(l->rows, l->rows), *cov = gsl_matrix_alloc(l->parts, l->parts);
    for (size_t i = 0; i < G_N_ELEMENTS(correlation); i++) {
        for (size_t w = 0; w < (i == 0 ? 1 : G_N_ELEMENTS(white)); w++) { /* without a correlation all of it is white */
            for (size_t k = 0; k < G_N_ELEMENTS(load); k++) {
                double likelihood, size;
                noise_matrix(l, walk, correlation[i], i == 0 ? 1.0 : white[w], load[k], sigma);
                if (likelihood_of(l, sigma, &likelihood, &size) && covariance_of(l, sigma, size, cov)) {
                    component c = component_of(m, l, cov);
                    c.weight = likelihood + (i == 0 && load[k] <= 0.0 ? log(40.0) : 0.0);
                    c.load = load[k];
                    g_array_append_val(m->component, c);
                }
            }
        }
    }
    gsl_matrix_free(walk);
    gsl_matrix_free(sigma);
    gsl_matrix_free(cov);
}

/* From logarithms to shares of 1. */
static void weigh_components(GArray *all)
{
    double most = -INFINITY, sum = 0.0;
    for (guint i = 0; i < all->len; i++) {
        most = fmax(most, g_array_index(all, component, i).weight);
    }
    for (guint i = 0; i < all->len; i++) {
        component *c = &g_array_index(all, component, i);
        c->weight = exp(c->weight - most);
        sum += c->weight;
    }
    for (guint i = 0; i < all->len; i++) {
        g_array_index(all, component, i).weight /= sum;
    }
}

void process_criterion(model *m)
{
    m->l = linearise(&m->f, m->shape);
    double squares;
    gsl_blas_ddot(m->l.residual, m->l.residual, &squares);
    const double n = (double)m->l.rows, p = (double)m->l.parts + 1.0;
    m->criterion = n * log(fmax(squares, 1e-300) / n) + 2.0 * p + 2.0 * p * (p + 1.0) / fmax(1.0, n - p - 1.0);
    process_squares(&m->f, m->shape);
}

void process_doubts(model *m)
{
    add_doubts(m, &m->l);
    weigh_components(m->component);
}

void process_model_clear(model *m)
{
    gsl_matrix_free(m->l.j);
    gsl_vector_free(m->l.residual);
    g_array_unref(m->component);
}
