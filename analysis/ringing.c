/* Ringing in a course: turning points that stand out of the noise, their period and decay. */
#include "ringing.h"

#include <gsl/gsl_linalg.h>
#include <gsl/gsl_multifit.h>
#include <gsl/gsl_multimin.h>
#include <math.h>

#define COUNT_LEAST 10u
#define STEPS_MOST  200
#define NOWHERE     1e300 /* a sum of squares that is none */
#define SHARP       1e-5  /* of the simplex, relative */
#define WIDTH       1e-3  /* relative, of the differences that tell the curvature */
#define PI          3.14159265358979323846

/* The values, and what the last projection found. */
typedef struct swing {
    const double *time, *value;
    uint32_t count;
    gsl_matrix *shape;
    gsl_vector *measured, *linear;
    gsl_matrix *covariance;
    gsl_multifit_linear_workspace *space;
} swing;

/* The sum of squares that is left with these two, of which the logarithms are varied: rate period, and period. */
static double left_over(const gsl_vector *at, void *self)
{
    swing *s = self;
    const double period = exp(gsl_vector_get(at, 1)), rate = gsl_vector_get(at, 0) / period;
    double squares = 0.0;
    for (uint32_t i = 0; i < s->count; i++) {
        const double t = s->time[i] - s->time[0], turn = 2.0 * PI * t / period, dies = exp(-rate * t);
        gsl_matrix_set(s->shape, i, 0, 1.0);
        gsl_matrix_set(s->shape, i, 1, dies * cos(turn));
        gsl_matrix_set(s->shape, i, 2, dies * sin(turn));
    }
    const bool sound = isfinite(period) && isfinite(rate) && rate * (s->time[s->count - 1] - s->time[0]) > -20.0;
    if (!sound || gsl_multifit_linear(s->shape, s->measured, s->linear, s->covariance, &squares, s->space) != 0) {
        return NOWHERE;
    }
    return fmin(squares, NOWHERE);
}

static double at(swing *s, const gsl_vector *best, double more_rate, double more_period)
{
    gsl_vector *x = gsl_vector_alloc(2);
    gsl_vector_set(x, 0, gsl_vector_get(best, 0) + more_rate);
    gsl_vector_set(x, 1, gsl_vector_get(best, 1) + more_period);
    const double squares = left_over(x, s);
    gsl_vector_free(x);
    return squares;
}

/* The standard error of the first number, from the curvature of the sum of squares about its least. */
static double error_of(swing *s, const gsl_vector *best, double squares, double independent)
{
    const double w = WIDTH;
    const double rr = (at(s, best, w, 0) - 2.0 * squares + at(s, best, -w, 0)) / (w * w);
    const double pp = (at(s, best, 0, w) - 2.0 * squares + at(s, best, 0, -w)) / (w * w);
    const double rp =
        (at(s, best, w, w) - at(s, best, w, -w) - at(s, best, -w, w) + at(s, best, -w, -w)) / (4.0 * w * w);
    const double curved = rr * pp - rp * rp;
    const double variance = squares / fmax(independent - 5.0, 1.0);
    return curved > 0.0 ? sqrt(2.0 * variance * pp / curved) : INFINITY;
}

static void search(swing *s, double ratio, double period, gsl_vector *best)
{
    gsl_multimin_function function = {left_over, 2, s};
    gsl_multimin_fminimizer *simplex = gsl_multimin_fminimizer_alloc(gsl_multimin_fminimizer_nmsimplex2, 2);
    gsl_vector *step = gsl_vector_alloc(2);
    gsl_vector_set(best, 0, -log(fmin(fmax(ratio, 0.01), 1.2)));
    gsl_vector_set(best, 1, log(period));
    gsl_vector_set(step, 0, 0.3);
    gsl_vector_set(step, 1, 0.1);
    gsl_multimin_fminimizer_set(simplex, &function, best, step);
    for (int i = 0; i < STEPS_MOST && gsl_multimin_fminimizer_iterate(simplex) == 0; i++) {
        if (gsl_multimin_fminimizer_size(simplex) < SHARP) {
            break;
        }
    }
    gsl_vector_memcpy(best, gsl_multimin_fminimizer_x(simplex));
    gsl_vector_free(step);
    gsl_multimin_fminimizer_free(simplex);
}

static swing swing_of(const double *time, const double *value, uint32_t count)
{
    swing s = {.time = time,
               .value = value,
               .count = count,
               .shape = gsl_matrix_alloc(count, 3),
               .measured = gsl_vector_alloc(count),
               .linear = gsl_vector_alloc(3),
               .covariance = gsl_matrix_alloc(3, 3),
               .space = gsl_multifit_linear_alloc(count, 3)};
    for (uint32_t i = 0; i < count; i++) {
        gsl_vector_set(s.measured, i, value[i]);
    }
    return s;
}

static void swing_end(swing *s)
{
    gsl_matrix_free(s->shape);
    gsl_vector_free(s->measured);
    gsl_vector_free(s->linear);
    gsl_matrix_free(s->covariance);
    gsl_multifit_linear_free(s->space);
}

bool rgp_ringing_fit(const double *time, const double *value, uint32_t count, double independent, double ratio,
                     double period, rgp_ringing *found)
{
    if (count < COUNT_LEAST || !(period > 0.0)) {
        return false;
    }
    swing s = swing_of(time, value, count);
    gsl_vector *best = gsl_vector_alloc(2);
    search(&s, ratio, period, best);
    const double squares = left_over(best, &s);
    *found = (rgp_ringing){.ratio = exp(-gsl_vector_get(best, 0)),
                           .period = exp(gsl_vector_get(best, 1)),
                           .middle = gsl_vector_get(s.linear, 0),
                           .height = hypot(gsl_vector_get(s.linear, 1), gsl_vector_get(s.linear, 2)),
                           .residual = sqrt(squares / count)};
    found->ratio_error = found->ratio * error_of(&s, best, squares, independent);
    gsl_vector_free(best);
    swing_end(&s);
    return squares < NOWHERE && found->height > found->residual;
}

double rgp_line_at(const double *time, const double *value, uint32_t count, double period, double *error)
{
    *error = INFINITY;
    if (count < COUNT_LEAST) {
        return 0.0;
    }
    gsl_matrix *shape = gsl_matrix_alloc(count, 4), *covariance = gsl_matrix_alloc(4, 4);
    gsl_vector *measured = gsl_vector_alloc(count), *linear = gsl_vector_alloc(4);
    gsl_multifit_linear_workspace *space = gsl_multifit_linear_alloc(count, 4);
    double squares;
    for (uint32_t i = 0; i < count; i++) {
        const double t = time[i] - time[0];
        gsl_matrix_set(shape, i, 0, 1.0);
        gsl_matrix_set(shape, i, 1, t);
        gsl_matrix_set(shape, i, 2, cos(2.0 * PI * t / period));
        gsl_matrix_set(shape, i, 3, sin(2.0 * PI * t / period));
        gsl_vector_set(measured, i, value[i]);
    }
    gsl_multifit_linear(shape, measured, linear, covariance, &squares, space);
    const double height = hypot(gsl_vector_get(linear, 2), gsl_vector_get(linear, 3));
    *error = sqrt(fmax(gsl_matrix_get(covariance, 2, 2), gsl_matrix_get(covariance, 3, 3)));
    gsl_matrix_free(shape);
    gsl_matrix_free(covariance);
    gsl_vector_free(measured);
    gsl_vector_free(linear);
    gsl_multifit_linear_free(space);
    return height;
}
