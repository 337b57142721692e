/* The search for the shape of a process: a grid, then a simplex. */
#include "process_parts.h"

#include <gsl/gsl_multimin.h>

#include <math.h>
#include <string.h>

#define LOAD_STEP   0.03 /* of the length: the first step of a search for when a load came */
#define PERIOD_STEP 0.02 /* of a logarithm */

bool process_grid(const fitting *f, size_t i, double *shape)
{
    const double length = (double)f->data->count * f->data->tick, tick = f->data->tick;
    const size_t row = i / f->how->deads, lags = f->kind == RGP_PROCESS_INTEGRAL ? 1 : f->how->lags,
                 deads = f->how->deads;
    const double lag = log(tick) + (log(2.0 * length) - log(tick)) * ((double)row + 0.5) / (double)lags,
                 share = (double)(i % deads) / (double)(deads - 1);
    shape[SHAPE_LAG] = rgp_process_goes_on(f->kind) ? 0.0 : lag;
    shape[SHAPE_DEAD] = length / 4.0 * share * share;
    shape[SHAPE_SECOND] = fmax(lag - 1.5, log(tick) + 0.01);
    memcpy(shape + SHAPE_LOAD, f->load_at, sizeof f->load_at);
    shape[SHAPE_WAVE] = f->period > 0.0 ? log(f->period) : 0.0;
    return i < lags * deads;
}

double process_search_grid(fitting *f, double *shape)
{
    double least = INFINITY, at[PROCESS_SHAPES];
    for (size_t i = 0; process_grid(f, i, at); i++) {
        const double squares = process_squares(f, at);
        if (squares < least) {
            least = squares;
            memcpy(shape, at, sizeof at);
        }
    }
    return least;
}

/* A part that a kind does not have is left at 0. */
static double for_simplex(const gsl_vector *v, void *self)
{
    fitting *f = self;
    double shape[PROCESS_SHAPES] = {0};
    for (size_t i = 0; i < v->size; i++) {
        shape[process_shape(f, i)] = gsl_vector_get(v, i);
    }
    return process_squares(f, shape);
}

double process_search_around(fitting *f, double *shape)
{
    const size_t n = process_shapes(f);
    gsl_vector *at = gsl_vector_alloc(n), *step = gsl_vector_alloc(n);
    gsl_multimin_fminimizer *s = gsl_multimin_fminimizer_alloc(gsl_multimin_fminimizer_nmsimplex2, n);
    gsl_multimin_function function = {for_simplex, n, f};
    for (size_t i = 0; i < n; i++) {
        const size_t which = process_shape(f, i);
        gsl_vector_set(at, i, shape[which]);
        gsl_vector_set(step, i,
                       which == SHAPE_DEAD   ? fmax(f->data->tick, shape[SHAPE_DEAD] / 4.0)
                       : which == SHAPE_WAVE ? PERIOD_STEP
                       : which >= SHAPE_LOAD ? LOAD_STEP * (double)f->data->count * f->data->tick
                                             : 0.3);
    }
    gsl_multimin_fminimizer_set(s, &function, at, step);
    for (int i = 0; i < f->how->turns && gsl_multimin_fminimizer_size(s) > f->how->size; i++) {
        if (gsl_multimin_fminimizer_iterate(s)) {
            break;
        }
    }
    for (size_t i = 0; i < n; i++) {
        shape[process_shape(f, i)] = gsl_vector_get(s->x, i);
    }
    gsl_multimin_fminimizer_free(s);
    gsl_vector_free(at);
    gsl_vector_free(step);
    return process_squares(f, shape);
}
