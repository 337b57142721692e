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
    const double lag = m->f.kind == RGP_PROCESS_INTEGRAL ? 1e6 * l->tick : exp(m->shape[0]);
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
