/* Fits of process models: the shape of each, and what is made of all of them. */
#include "process_parts.h"

#include "noise.h"
#include "numerics.h"
#include "spikes.h"

#include <gsl/gsl_multimin.h>

#include <math.h>
#include <string.h>

#define ROWS_LEAST   40u
#define ROWS_MOST    2000u
#define ROWS_LOOKED  600u
#define COARSE       1.5  /* times the noise of rounding: a noise below is mostly that */
#define NOTHING      1e-6 /* of the weight: what a structure that weighs less is sure of does not matter */
#define AVERAGED     RGP_PROCESS_FALLING /* the kinds before it are weighed against one another */
#define FALLING_FIT  90.0                /* percent */
#define FALLING_LEFT 0.25                /* of the squares that another model leaves */
#define LOAD_SEEN    0.1                 /* of the noise: less of a walking load is not told */

static const search careful = {10, 12, 400, 1e-7}, rough = {6, 16, 60, 1e-3};

/* ---- the shape ------------------------------------------------------------------------------------- */

static void search_grid(fitting *f, double *shape)
{
    const double length = (double)f->data->count * f->data->tick, tick = f->data->tick;
    double least = INFINITY;
    const int lags = f->kind == RGP_PROCESS_INTEGRAL ? 1 : f->how->lags, deads = f->how->deads;
    for (int i = 0; i < lags; i++) {
        for (int k = 0; k < deads; k++) {
            const double lag = log(tick) + (log(2.0 * length) - log(tick)) * (i + 0.5) / lags,
                         share = (double)k / (deads - 1),
                         at[PROCESS_SHAPES] = {f->kind == RGP_PROCESS_INTEGRAL ? 0.0 : lag,
                                               length / 4.0 * share * share, fmax(lag - 1.5, log(tick) + 0.01)};
            const double squares = process_squares(f, at);
            if (squares < least) {
                least = squares;
                memcpy(shape, at, sizeof at);
            }
        }
    }
}

/* Of an integral only the dead time is a shape: its lag is left where it is. */
static double for_simplex(const gsl_vector *v, void *self)
{
    fitting *f = self;
    double shape[PROCESS_SHAPES] = {0};
    for (size_t i = 0; i < v->size; i++) {
        shape[f->kind == RGP_PROCESS_INTEGRAL ? 1 : i] = gsl_vector_get(v, i);
    }
    return process_squares(f, shape);
}

static double search_around(fitting *f, double *shape)
{
    const size_t n = f->kind == RGP_PROCESS_INTEGRAL ? 1 : process_shapes(f->kind);
    gsl_vector *at = gsl_vector_alloc(n), *step = gsl_vector_alloc(n);
    gsl_multimin_fminimizer *s = gsl_multimin_fminimizer_alloc(gsl_multimin_fminimizer_nmsimplex2, n);
    gsl_multimin_function function = {for_simplex, n, f};
    for (size_t i = 0; i < n; i++) {
        const size_t which = f->kind == RGP_PROCESS_INTEGRAL ? 1 : i;
        gsl_vector_set(at, i, shape[which]);
        gsl_vector_set(step, i, which == 1 ? fmax(f->data->tick, shape[1] / 4.0) : 0.3);
    }
    gsl_multimin_fminimizer_set(s, &function, at, step);
    for (int i = 0; i < f->how->turns && gsl_multimin_fminimizer_size(s) > f->how->size; i++) {
        if (gsl_multimin_fminimizer_iterate(s)) {
            break;
        }
    }
    for (size_t i = 0; i < n; i++) {
        shape[f->kind == RGP_PROCESS_INTEGRAL ? 1 : i] = gsl_vector_get(s->x, i);
    }
    gsl_multimin_fminimizer_free(s);
    gsl_vector_free(at);
    gsl_vector_free(step);
    return process_squares(f, shape);
}

/* ---- all of them ----------------------------------------------------------------------------------- */

static void fit_model(const rgp_process_data *data, const search *how, rgp_process_kind kind, size_t usable,
                      double *answer, model *m)
{
    *m = (model){.f = {.data = data, .how = how, .kind = kind, .answer = answer, .usable = usable},
                 .component = g_array_new(FALSE, TRUE, sizeof(component))};
    search_grid(&m->f, m->shape);
    m->squares = search_around(&m->f, m->shape);
    process_criterion(m);
}

/* Rows in blocks, so that there are not too many. */
static rgp_process_data shortened(const rgp_process_data *d, double **driven, double **measured)
{
    const size_t each = (d->count + ROWS_MOST - 1) / ROWS_MOST, count = d->count / each;
    *driven = g_malloc_n(count + 1, sizeof **driven);
    *measured = g_malloc_n(count + 1, sizeof **measured);
    for (size_t i = 0; i < count; i++) {
        double sum = 0.0, push = 0.0, n = 0.0;
        for (size_t k = i * each; k < (i + 1) * each; k++) {
            push += d->driven[k] / (double)each;
            sum += isnan(d->measured[k]) ? 0.0 : d->measured[k];
            n += isnan(d->measured[k]) ? 0.0 : 1.0;
        }
        (*driven)[i] = push;
        (*measured)[i] = n > 0.0 ? sum / n : (double)NAN;
    }
    return (rgp_process_data){*driven, *measured, count, d->tick * (double)each};
}

static double variance_of(const rgp_process_data *d, size_t usable)
{
    double mean = 0.0, square = 0.0;
    for (size_t i = 0; i < d->count; i++) {
        mean += isnan(d->measured[i]) ? 0.0 : d->measured[i] / (double)usable;
    }
    for (size_t i = 0; i < d->count; i++) {
        square += isnan(d->measured[i]) ? 0.0 : (d->measured[i] - mean) * (d->measured[i] - mean);
    }
    return square;
}

static bool is_enough(const rgp_process_data *d, size_t *usable)
{
    double low = INFINITY, high = -INFINITY;
    *usable = 0;
    for (size_t i = 0; i < d->count; i++) {
        *usable += isnan(d->measured[i]) ? 0u : 1u;
        low = fmin(low, d->driven[i]);
        high = fmax(high, d->driven[i]);
    }
    return *usable >= ROWS_LEAST && high > low;
}

/* The likeliest of one lag, two lags and two equal ones. */
static const model *likeliest(const model m[AVERAGED], const rgp_process *p)
{
    rgp_process_kind best = RGP_PROCESS_LAG;
    for (rgp_process_kind i = RGP_PROCESS_LAG; i < RGP_PROCESS_INTEGRAL; i++) {
        best = p->weight[i] > p->weight[best] ? i : best;
    }
    return &m[best];
}

/* Of all of them, and whether it is an integral: that is likelier, or the end of a lag is not in sight. */
static bool weigh(const model m[AVERAGED], rgp_process *to)
{
    double least = INFINITY, sum = 0.0;
    for (int i = 0; i < AVERAGED; i++) {
        least = fmin(least, m[i].criterion);
    }
    for (int i = 0; i < AVERAGED; i++) {
        to->weight[i] = exp((least - m[i].criterion) / 2.0);
        sum += to->weight[i];
    }
    for (int i = 0; i < AVERAGED; i++) {
        to->weight[i] /= sum;
    }
    const rgp_process_data *d = m[RGP_PROCESS_LAG].f.data;
    const bool beyond = exp(likeliest(m, to)->shape[0]) > (double)d->count * d->tick;
    return beyond || to->weight[RGP_PROCESS_INTEGRAL] > 0.5;
}

/* The lesser one of two lags; 0: it has one. */
static double second_of(const model *m)
{
    return m->f.kind == RGP_PROCESS_LAGS ? exp(m->shape[2]) : m->f.kind == RGP_PROCESS_TWIN ? exp(m->shape[0]) : 0.0;
}

/* A simplex never gets to 0. */
static double dead_of(double found, double tick)
{
    return found > NOTHING * tick ? found : 0.0;
}

/* Lag and lags by their weights; an integral stands alone, where it is the likelier one. */
static void average(model m[AVERAGED], rgp_process *to)
{
    g_autoptr(GArray) all = g_array_new(FALSE, TRUE, sizeof(component));
    const bool integral = weigh(m, to);
    const rgp_process_data *d = m[RGP_PROCESS_LAG].f.data;
    const model *likelier = likeliest(m, to);
    const double whole = integral ? to->weight[RGP_PROCESS_INTEGRAL] : 1.0 - to->weight[RGP_PROCESS_INTEGRAL];
    for (int i = 0; i < AVERAGED; i++) {
        if ((i == RGP_PROCESS_INTEGRAL) == integral && to->weight[i] > NOTHING * whole) {
            process_doubts(&m[i]);
        }
        for (guint k = 0; k < m[i].component->len; k++) {
            component c = g_array_index(m[i].component, component, k);
            c.weight *= to->weight[i] / whole;
            to->load += c.load >= LOAD_SEEN ? c.weight : 0.0;
            g_array_append_val(all, c);
        }
    }
    to->kind = integral ? RGP_PROCESS_INTEGRAL : RGP_PROCESS_LAG;
    to->gain = process_estimate(all, OF_GAIN);
    to->sum = process_estimate(all, OF_SUM);
    to->dead = process_estimate(all, OF_DEAD);
    to->dead.low = fmax(0.0, to->dead.low);
    to->dead.value = dead_of(to->dead.value, d->tick);
    if (!integral) {
        const rgp_estimate lag = process_estimate(all, OF_LAG);
        to->lag = (rgp_estimate){exp(lag.value), exp(lag.low), exp(lag.high)};
        to->second = likelier->f.kind == RGP_PROCESS_TWIN ? to->lag.value : second_of(likelier);
    }
}

static void keep_best(const rgp_process_data *d, model m[AVERAGED], size_t usable, rgp_process *to)
{
    const model *best = to->kind == RGP_PROCESS_INTEGRAL ? &m[RGP_PROCESS_INTEGRAL] : likeliest(m, to);
    const double lag = exp(best->shape[0]);
    const rgp_plant plant = process_plant(&best->f, best->shape);
    double low = INFINITY, high = -INFINITY, squares = 0.0;
    size_t n = 0;
    to->fitted = g_malloc_n(d->count + 1, sizeof(double));
    g_autofree double *left = g_malloc_n(d->count + 1, sizeof(double));
    rgp_process_answer(&plant, d, to->fitted);
    for (size_t k = 0; k < d->count; k++) {
        const double moved = best->f.linear[0] * to->fitted[k], begin = best->f.kind == RGP_PROCESS_INTEGRAL
                                                                            ? (double)k * d->tick
                                                                            : exp(-(double)k * d->tick / lag);
        low = fmin(low, moved);
        high = fmax(high, moved);
        to->fitted[k] = moved + best->f.linear[1] + best->f.linear[2] * begin;
        const double over = d->measured[k] - to->fitted[k];
        left[n] = over;
        n += isnan(over) ? 0 : 1;
        squares += isnan(over) ? 0.0 : over * over;
    }
    const double step = rgp_noise_of_readings(d->measured, d->count).step, rounding = step / sqrt(12.0);
    to->left = rgp_noise_coloured(left, n);
    to->noise = fmax(rgp_noise_of(left, n).sigma, rounding);
    if (to->left.sigma < COARSE * rounding) {
        to->step = step;
        to->left.sigma = sqrt(fmax(0.0, to->left.sigma * to->left.sigma - rounding * rounding));
    }
    process_sides(best, to);
    to->excursion = high - low;
    to->rest = best->f.kind == RGP_PROCESS_INTEGRAL ? (double)NAN : best->f.linear[1];
    to->fit = 100.0 * (1.0 - squares / fmax(variance_of(d, usable), 1e-300));
}

/* In so many rows that looking at all distances costs little. */
static void look_at_left(const rgp_process_data *d, rgp_process *to)
{
    const size_t each = (d->count + ROWS_LOOKED - 1) / ROWS_LOOKED, count = d->count / each;
    g_autofree double *driven = g_new0(double, count + 1), *measured = g_new0(double, count + 1),
                      *fitted = g_new0(double, count + 1);
    for (size_t i = 0; i < count; i++) {
        double sum = 0.0, n = 0.0;
        for (size_t k = i * each; k < (i + 1) * each; k++) {
            const double left = d->measured[k] - to->fitted[k];
            driven[i] += d->driven[k] / (double)each;
            sum += isnan(left) ? 0.0 : left;
            n += isnan(left) ? 0.0 : 1.0;
        }
        measured[i] = n > 0.0 ? sum / n : (double)NAN;
    }
    const rgp_process_data few = {driven, measured, count, d->tick * (double)each};
    const double memory = to->kind == RGP_PROCESS_INTEGRAL ? (double)d->count * d->tick / 10.0 : to->sum.value;
    to->misses = process_left_follows(&few, fitted, memory, &to->later);
}

static bool fit_all(const rgp_process_data *d, const search *how, double *answer, model m[AVERAGED])
{
    size_t rows;
    const bool enough = is_enough(d, &rows);
    for (int i = 0; enough && i < AVERAGED; i++) {
        fit_model(d, how, (rgp_process_kind)i, rows, answer, &m[i]);
    }
    return enough;
}

static void clear_all(model m[AVERAGED])
{
    for (int i = 0; i < AVERAGED; i++) {
        process_model_clear(&m[i]);
    }
}

bool rgp_process_fit(const rgp_process_data *all, rgp_process *to)
{
    size_t usable;
    double *driven, *measured;
    g_autofree double *without = g_malloc_n(all->count + 1, sizeof *without);
    const rgp_process_data clean = {all->driven, without, all->count, all->tick}, *data = &clean;
    *to = (rgp_process){.kind = RGP_PROCESS_LAG, .spikes = rgp_spikes_out(all->measured, all->count, without)};
    rgp_numerics_go_on();
    if (!is_enough(data, &usable)) {
        return false;
    }
    const rgp_process_data shorter = shortened(data, &driven, &measured);
    g_autofree double *answer = g_malloc_n(shorter.count + 1, sizeof *answer);
    model m[AVERAGED];
    const bool enough = fit_all(&shorter, &careful, answer, m);
    if (enough) {
        average(m, to);
        keep_best(data, m, usable, to);
        look_at_left(data, to);
        clear_all(m);
    }
    g_free(driven);
    g_free(measured);
    return enough;
}

/* Of the likeliest one alone. */
static void keep_glance(const rgp_process_data *d, double way, model m[AVERAGED], rgp_process *to)
{
    const bool integral = weigh(m, to);
    model *best = &m[integral ? RGP_PROCESS_INTEGRAL : likeliest(m, to)->f.kind];
    best->f.how = &careful;
    best->squares = search_around(&best->f, best->shape);
    to->kind = integral ? RGP_PROCESS_INTEGRAL : RGP_PROCESS_LAG;
    to->gain.value = best->f.linear[0];
    if (way * to->gain.value <= 0.0) {
        process_doubts(best);
        to->gain = process_estimate(best->component, OF_GAIN);
    }
    to->lag.value = integral ? 0.0 : exp(best->shape[0]);
    to->second = integral ? 0.0 : second_of(best);
    to->dead.value = dead_of(best->shape[1], d->tick);
    to->fit = 100.0 * (1.0 - best->squares / fmax(variance_of(d, best->f.usable), 1e-300));
}

bool rgp_process_glance(const rgp_process_data *data, double way, rgp_process *to)
{
    g_autofree double *answer = g_malloc_n(data->count + 1, sizeof *answer);
    model m[AVERAGED];
    *to = (rgp_process){.kind = RGP_PROCESS_LAG};
    rgp_numerics_go_on();
    const bool enough = fit_all(data, &rough, answer, m);
    if (enough) {
        keep_glance(data, way, m, to);
        clear_all(m);
    }
    return enough;
}

static guint count_doubts(const rgp_process *p, double tick)
{
    g_autoptr(GPtrArray) all = rgp_process_doubts(p, tick);
    return all->len;
}

static double squares_left(const rgp_process_data *d, const double *fitted)
{
    double squares = 0.0, n = 0.0;
    for (size_t k = 0; k < d->count; k++) {
        const double left = d->measured[k] - fitted[k];
        squares += isnan(left) ? 0.0 : left * left;
        n += isnan(left) ? 0.0 : 1.0;
    }
    return squares / fmax(n, 1.0);
}

/* A loop of that gain could have held it, and the other model is none to build on, or leaves far more of the same rows:
 * of a process that does not fall each would leave its noise. */
static bool is_falling(const rgp_process_data *d, double gain, const rgp_process *falling, const rgp_process *other)
{
    return count_doubts(falling, d->tick) == 0 && gain * falling->gain.value > 1.0 &&
           (count_doubts(other, d->tick) > 0 ||
            (falling->fit > FALLING_FIT &&
             squares_left(d, falling->fitted) < FALLING_LEFT * squares_left(d, other->fitted)));
}

bool rgp_process_fit_held(const rgp_process_data *data, double gain, rgp_process *to)
{
    rgp_process falling;
    g_autofree double *without = g_malloc_n(data->count + 1, sizeof *without);
    if (!rgp_process_fit(data, to)) {
        return false;
    }
    rgp_spikes_out(data->measured, data->count, without);
    const rgp_process_data clean = {data->driven, without, data->count, data->tick};
    if (gain == 0.0 || !process_fit_falling(&clean, &falling)) {
        return true;
    }
    if (is_falling(&clean, gain, &falling, to)) {
        falling.spikes = to->spikes;
        rgp_process_clear(to);
        *to = falling;
    } else {
        rgp_process_clear(&falling);
    }
    return true;
}

void rgp_process_clear(rgp_process *p)
{
    g_free(p->fitted);
    p->fitted = NULL;
}
