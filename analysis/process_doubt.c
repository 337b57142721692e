/* The doubt of a fitted process: the plain estimate under noise that hangs together. */
#include "process_parts.h"

#include "noise_kinds.h"

#include <gsl/gsl_blas.h>
#include <gsl/gsl_cdf.h>
#include <gsl/gsl_errno.h>
#include <gsl/gsl_linalg.h>
#include <gsl/gsl_roots.h>

#include <math.h>
#include <string.h>

#define BLOCKS_MOST 134u /* rows that intervals are worked out from */
#define PARTS_MOST  (PROCESS_EXPLAINED + PROCESS_SHAPES)

/* ---- how sure -------------------------------------------------------------------------------------- */

static void put_derivative(fitting *f, const double *shape, size_t which, double step, double *to)
{
    double up[PROCESS_SHAPES], down[PROCESS_SHAPES];
    memcpy(up, shape, sizeof up);
    memcpy(down, shape, sizeof down);
    up[which] += step;
    down[which] = which == SHAPE_DEAD ? fmax(0.0, shape[1] - step) : shape[which] - step;
    g_autofree double *other = g_malloc0_n(f->data->count, sizeof *other);
    process_fitted(f, up, to);
    process_fitted(f, down, other);
    for (size_t k = 0; k < f->data->count; k++) {
        to[k] = (to[k] - other[k]) / (up[which] - down[which]);
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
    const size_t linear = process_linear(f);
    linearised l = {
        .rows = rows, .parts = linear + process_shapes(f), .tick = (double)each * d->tick, .ticks_a_row = (double)each};
    g_autofree double *column = g_malloc0_n(d->count, sizeof *column);
    l.j = gsl_matrix_calloc(rows, l.parts);
    l.residual = gsl_vector_calloc(rows);
    process_squares(f, shape);
    for (size_t i = 0; i < linear; i++) {
        take_mean(&l, process_column(f, i), d->measured, d->count, i, false);
    }
    process_fitted(f, shape, column);
    for (size_t k = 0; k < d->count; k++) {
        column[k] = d->measured[k] - column[k];
    }
    take_mean(&l, column, d->measured, d->count, 0, true);
    for (size_t i = linear; i < l.parts; i++) {
        const size_t which = process_shape(f, i - linear);
        put_derivative(f, shape, which,
                       which == SHAPE_WAVE                          ? 1e-3
                       : which == SHAPE_DEAD || which >= SHAPE_LOAD ? d->tick / 2.0
                                                                    : 0.01,
                       column);
        take_mean(&l, column, d->measured, d->count, i, false);
    }
    return l;
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

typedef struct mixture {
    const GArray *all;
    int which;
    double share;
} mixture;

static double beyond_share(double x, void *self)
{
    const mixture *m = self;
    return below(m->all, m->which, x) - m->share;
}

/* By Brent's method (1973), to a billionth of where it is looked for. */
static double quantile(const GArray *all, int which, double share)
{
    double low = INFINITY, high = -INFINITY;
    for (guint i = 0; i < all->len; i++) {
        const component *c = &g_array_index(all, component, i);
        low = fmin(low, c->value[which] - 60.0 * c->error[which]);
        high = fmax(high, c->value[which] + 60.0 * c->error[which]);
    }
    mixture m = {all, which, share};
    gsl_function function = {beyond_share, &m};
    gsl_root_fsolver *s = gsl_root_fsolver_alloc(gsl_root_fsolver_brent);
    const double near = 1e-9 * (high - low);
    const bool is_between = high > low && gsl_root_fsolver_set(s, &function, low, high) == GSL_SUCCESS;
    for (int i = 0; is_between && i < 100 && high - low > near && gsl_root_fsolver_iterate(s) == GSL_SUCCESS; i++) {
        low = gsl_root_fsolver_x_lower(s);
        high = gsl_root_fsolver_x_upper(s);
    }
    const double found = is_between ? gsl_root_fsolver_root(s) : low + (high - low) / 2.0;
    gsl_root_fsolver_free(s);
    return found;
}

rgp_estimate process_estimate(const GArray *all, int which)
{
    return (rgp_estimate){quantile(all, which, 0.5), quantile(all, which, 0.025), quantile(all, which, 0.975)};
}

/* ---- one model ------------------------------------------------------------------------------------- */

static double variance_of_sum(const gsl_matrix *cov, const model *m)
{
    double by[PARTS_MOST] = {0}, sum = 0.0;
    const size_t parts = cov->size1, first = process_linear(&m->f);
    for (size_t i = first; i < parts; i++) {
        const size_t which = process_shape(&m->f, i - first);
        by[i] = which == SHAPE_DEAD   ? 1.0
                : which >= SHAPE_LOAD ? 0.0
                                      : (m->f.kind == RGP_PROCESS_TWIN ? 2.0 : 1.0) * exp(m->shape[which]);
    }
    for (size_t i = 0; i < parts; i++) {
        for (size_t k = 0; k < parts; k++) {
            sum += by[i] * by[k] * gsl_matrix_get(cov, i, k);
        }
    }
    return sum;
}

/* When each came, and its size: of a ratio by its derivatives. */
static void put_loads(const model *m, const gsl_matrix *cov, component *c)
{
    const size_t first = cov->size1 - m->f.loads - (m->f.period > 0.0 ? 1u : 0u);
    for (size_t i = 0; i < m->f.loads; i++) {
        const size_t linear = PROCESS_LINEAR + i, time = first + i;
        const double size = process_size(m, i), half_tick = m->f.data->tick / 2.0,
                     variance = gsl_matrix_get(cov, linear, linear) + size * size * gsl_matrix_get(cov, 0, 0) -
                                2.0 * size * gsl_matrix_get(cov, 0, linear);
        c->value[OF_SIZE + i] = size;
        c->error[OF_SIZE + i] = sqrt(fmax(variance, 0.0)) / fabs(m->f.linear[0]);
        c->value[OF_TIME + i] = m->shape[SHAPE_LOAD + i];
        c->error[OF_TIME + i] = sqrt(gsl_matrix_get(cov, time, time) + half_tick * half_tick);
    }
}

static component component_of(const model *m, const linearised *l, const gsl_matrix *cov)
{
    const bool goes_on = rgp_process_goes_on(m->f.kind);
    const double lag = goes_on ? 0.0 : exp(m->shape[0]), dead = m->shape[1], half_tick = m->f.data->tick / 2.0;
    component c = {.value = {m->f.linear[0], lag + process_second(m) + dead, m->shape[0], dead},
                   .freedom = (double)(l->rows - l->parts)};
    const size_t first = process_linear(&m->f), dead_at = goes_on ? first : first + 1;
    c.error[OF_GAIN] = sqrt(gsl_matrix_get(cov, 0, 0));
    c.error[OF_SUM] = sqrt(variance_of_sum(cov, m) + half_tick * half_tick);
    c.error[OF_LAG] = goes_on ? 0.0 : sqrt(gsl_matrix_get(cov, first, first));
    c.error[OF_DEAD] = sqrt(gsl_matrix_get(cov, dead_at, dead_at) + half_tick * half_tick);
    put_loads(m, cov, &c);
    return c;
}

typedef struct adding {
    model *m;
    gsl_matrix *h, *half, *cov; /* H of J'J; the plain estimate's covariance is H J' Sigma J H */
} adding;

static void add_component(void *self, const rgp_noise_kind *kind)
{
    adding *a = self;
    gsl_blas_dgemm(CblasNoTrans, CblasNoTrans, 1.0, a->h, kind->spread, 0.0, a->half);
    gsl_blas_dgemm(CblasNoTrans, CblasNoTrans, 1.0, a->half, a->h, 0.0, a->cov);
    component c = component_of(a->m, &a->m->l, a->cov);
    c.weight = kind->weight;
    c.load = kind->load;
    g_array_append_val(a->m->component, c);
}

/* The estimate under all kinds of noise, each by its likelihood. */
static void add_doubts(model *m)
{
    const linearised *l = &m->l;
    adding a = {m, gsl_matrix_alloc(l->parts, l->parts), gsl_matrix_alloc(l->parts, l->parts),
                gsl_matrix_alloc(l->parts, l->parts)};
    const double lag = rgp_process_goes_on(m->f.kind) ? 1e6 * l->tick : exp(m->shape[0]);
    gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, l->j, l->j, 0.0, a.h);
    if (gsl_linalg_cholesky_decomp1(a.h) == 0 && gsl_linalg_cholesky_invert(a.h) == 0) {
        rgp_noise_kinds(&(rgp_noise_rows){l->j, l->residual, l->tick, l->ticks_a_row, lag}, l->j, add_component, &a);
    }
    gsl_matrix_free(a.h);
    gsl_matrix_free(a.half);
    gsl_matrix_free(a.cov);
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

double process_gain_error(const model *m)
{
    const linearised *l = &m->l;
    gsl_matrix *h = gsl_matrix_alloc(l->parts, l->parts);
    double squares, error = INFINITY;
    gsl_blas_ddot(l->residual, l->residual, &squares);
    gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, l->j, l->j, 0.0, h);
    if (l->rows > l->parts && gsl_linalg_cholesky_decomp1(h) == 0 && gsl_linalg_cholesky_invert(h) == 0) {
        error = sqrt(squares / (double)(l->rows - l->parts) * gsl_matrix_get(h, 0, 0));
    }
    gsl_matrix_free(h);
    return error;
}

void process_doubts(model *m)
{
    add_doubts(m);
    weigh_components(m->component);
}

void process_model_clear(model *m)
{
    gsl_matrix_free(m->l.j);
    gsl_vector_free(m->l.residual);
    g_array_unref(m->component);
}
