/* Fits of process models: the shape of each, and what is made of all of them. */
#include "process_parts.h"

#include "noise.h"
#include "numerics.h"
#include "spikes.h"

#include <math.h>
#include <string.h>

#define ROWS_MOST       2000u
#define ROWS_LOOKED     600u
#define COARSE          1.5  /* times the noise of rounding: a noise below is mostly that */
#define NOTHING         1e-6 /* of the weight: what a structure that weighs less is sure of does not matter */
#define FALLING_LEFT    0.25 /* of the squares that another model leaves: then it falls */
#define MAY_FALL_LEFT   0.5  /* then the other one is not to be built on */
#define HARDLY_MORE     2.0  /* times the squares */
#define MORE_THAN_NOISE 2.0
#define LOAD_SEEN       0.1 /* of the noise: less of a walking load is not told */

/* An integral alone, or lag and lags by their weights. */
static void average(model m[PROCESS_AVERAGED], bool integral, rgp_process *to)
{
    g_autoptr(GArray) all = g_array_new(FALSE, TRUE, sizeof(component));
    const rgp_process_data *d = m[RGP_PROCESS_LAG].f.data;
    const model *likelier = process_likeliest(m, integral, to);
    double whole = 0.0;
    for (int i = 0; i < m->f.how->kinds; i++) {
        whole += rgp_process_goes_on((rgp_process_kind)i) == integral ? to->weight[i] : 0.0;
    }
    for (int i = 0; i < m->f.how->kinds; i++) {
        if (rgp_process_goes_on((rgp_process_kind)i) == integral && to->weight[i] > NOTHING * whole) {
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
    to->begins = integral && whole < 0.5;
    to->gain = process_estimate(all, OF_GAIN);
    to->sum = process_estimate(all, OF_SUM);
    to->dead = process_estimate(all, OF_DEAD);
    to->sum.low = fmax(0.0, to->sum.low);
    to->dead.low = fmax(0.0, to->dead.low);
    to->loads = m->f.loads;
    for (int i = 0; i < (int)to->loads; i++) {
        to->came[i] = (rgp_process_load){process_estimate(all, OF_TIME + i), process_estimate(all, OF_SIZE + i)};
    }
    to->dead.value = process_dead(to->dead.value, d->tick);
    if (!integral) {
        const rgp_estimate lag = process_estimate(all, OF_LAG);
        to->lag = (rgp_estimate){exp(lag.value), exp(lag.low), exp(lag.high)};
    }
    to->second = likelier->f.kind == RGP_PROCESS_TWIN ? to->lag.value : process_second(likelier);
}

/* Beside loads: neither how far it goes is known, nor for how long, but how fast it begins to: an integral, which
 * leaves hardly more. */
static void average_all(model m[PROCESS_AVERAGED], rgp_process *to)
{
    const bool integral = process_weigh(m, to);
    average(m, integral, to);
    if (m->f.loads > 0 && !integral && !rgp_process_is_known(to) &&
        m[RGP_PROCESS_INTEGRAL].squares < HARDLY_MORE * process_likeliest(m, false, to)->squares) {
        rgp_process other = {.spikes = to->spikes, .weight = {[RGP_PROCESS_INTEGRAL] = 1.0}};
        average(m, true, &other);
        other.begins = true;
        *to = rgp_process_is_known(&other) ? other : *to;
    }
}

/* All rows as it has them, and how far what was driven alone moves it. */
static void keep_fitted(const rgp_process_data *d, const model *best, rgp_process *to)
{
    fitting f = process_room(d);
    double low = INFINITY, high = -INFINITY;
    f.kind = best->f.kind;
    f.loads = best->f.loads;
    memcpy(f.linear, best->f.linear, sizeof f.linear);
    to->fitted = g_malloc_n(d->count + 1, sizeof(double));
    process_fitted(&f, best->shape, to->fitted);
    for (size_t k = 0; k < d->count; k++) {
        low = fmin(low, f.linear[0] * f.answer[k]);
        high = fmax(high, f.linear[0] * f.answer[k]);
    }
    to->excursion = high - low;
    process_room_free(&f);
}

/* Of what a model leaves: the share that is left where it is stronger to one side; all of it, in noises of a reading.
 */
typedef struct leaving {
    double share, noises;
} leaving;

static leaving keep_best(const rgp_process_data *d, model m[PROCESS_AVERAGED], size_t usable, rgp_process *to)
{
    const model *best = process_likeliest(m, to->kind == RGP_PROCESS_INTEGRAL, to);
    double squares = 0.0;
    size_t n = 0;
    g_autofree double *left = g_malloc_n(d->count + 1, sizeof(double));
    keep_fitted(d, best, to);
    for (size_t k = 0; k < d->count; k++) {
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
    const double share = process_sides(best, to);
    to->rest = rgp_process_goes_on(best->f.kind) ? (double)NAN : best->f.linear[1];
    to->fit = 100.0 * (1.0 - squares / fmax(process_variance(d, usable), 1e-300));
    return (leaving){share, sqrt(squares / (double)MAX(n, (size_t)1)) / fmax(to->noise, G_MINDOUBLE)};
}

/* In so many rows that looking at all distances costs little. */
static void look_at_left(const rgp_process_data *d, rgp_process *to)
{
    const size_t each = MAX((d->count + ROWS_LOOKED - 1) / ROWS_LOOKED, (size_t)1), count = d->count / each;
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

/* By few rows of all, with loads about when they came. */
static bool fit_with_loads(const rgp_process_data *data, const rgp_process_data *few, const rgp_process *loaded,
                           rgp_process *to, leaving *leaves)
{
    size_t usable;
    model m[PROCESS_AVERAGED];
    fitting f = process_room(few);
    f.how = loaded->loads > 0 ? &process_careful_loaded : &process_careful;
    f.loads = loaded->loads;
    for (size_t i = 0; i < f.loads; i++) {
        f.load_at[i] = loaded->came[i].at.value;
    }
    const bool enough = process_is_enough(data, &usable) && process_fit_all(&f, m);
    if (enough) {
        average_all(m, to);
        *leaves = keep_best(data, m, usable, to);
        look_at_left(data, to);
        process_clear_all(m);
    }
    process_room_free(&f);
    return enough;
}

/* Loads in between, where it leaves more than noise and they far less; less, too, than what is left where it is
 * stronger to one side. */
static void look_for_loads(const rgp_process_data *data, const rgp_process_data *few, leaving leaves, rgp_process *to)
{
    rgp_process glance = *to, other = {.kind = RGP_PROCESS_LAG, .spikes = to->spikes};
    glance.fit = 100.0 - leaves.share * (100.0 - to->fit);
    if (leaves.noises > MORE_THAN_NOISE && rgp_process_glance_besides(few, 0.0, to->noise, 0.0, &glance) &&
        fit_with_loads(data, few, &glance, &other, &leaves)) {
        rgp_process_clear(to);
        *to = other;
    }
}

/* Of all, and where a loop `regulates` with loads that came meanwhile: of a test by hand what comes in between spoils
 * it. */
static bool fit(const rgp_process_data *all, bool regulates, rgp_process *to)
{
    double *driven, *measured;
    g_autofree double *without = g_malloc_n(all->count + 1, sizeof *without);
    const rgp_process_data clean = {all->driven, without, all->count, all->tick};
    const rgp_process none = {.loads = 0};
    *to = (rgp_process){.kind = RGP_PROCESS_LAG, .spikes = rgp_spikes_out(all->measured, all->count, without)};
    rgp_numerics_go_on();
    const rgp_process_data few = process_shortened(&clean, ROWS_MOST, &driven, &measured);
    leaving leaves;
    const bool enough = few.count > 0 && fit_with_loads(&clean, &few, &none, to, &leaves);
    if (enough && regulates) {
        look_for_loads(&clean, &few, leaves, to);
    }
    g_free(driven);
    g_free(measured);
    return enough;
}

bool rgp_process_fit(const rgp_process_data *data, rgp_process *to)
{
    return fit(data, false, to);
}

static guint count_doubts(const rgp_process *p, double tick)
{
    g_autoptr(GPtrArray) all = rgp_process_doubts(p, tick);
    return all->len;
}

static double squares_left(const rgp_process_data *d, const double *fitted, const double *where)
{
    double squares = 0.0, n = 0.0;
    for (size_t k = 0; k < d->count; k++) {
        const double left = isnan(where[k]) ? (double)NAN : d->measured[k] - fitted[k];
        squares += isnan(left) ? 0.0 : left * left;
        n += isnan(left) ? 0.0 : 1.0;
    }
    return squares / fmax(n, 1.0);
}

/* Of the rows that the falling one was fitted to: it leaves less than such a share of what the other does. */
static bool leaves_less(const rgp_process_data *d, const rgp_process *falling, const rgp_process *other, double share)
{
    return squares_left(d, falling->fitted, falling->fitted) < share * squares_left(d, other->fitted, falling->fitted);
}

/* The other model is none to build on, or leaves far more: of a process that does not fall each would leave its
 * noise. */
static bool is_falling(const rgp_process_data *d, const rgp_process *falling, const rgp_process *other)
{
    return count_doubts(falling, d->tick) == 0 &&
           (count_doubts(other, d->tick) > 0 || leaves_less(d, falling, other, FALLING_LEFT));
}

bool rgp_process_fit_held(const rgp_process_data *data, double gain, rgp_process *to)
{
    rgp_process falling;
    g_autofree double *without = g_malloc_n(data->count + 1, sizeof *without);
    if (!fit(data, gain != 0.0, to)) {
        return false;
    }
    rgp_spikes_out(data->measured, data->count, without);
    const rgp_process_data clean = {data->driven, without, data->count, data->tick};
    if (gain == 0.0 || !process_fit_falling(&clean, &falling)) {
        return true;
    }
    const bool could_be_held = gain * falling.gain.value > 1.0;
    if (could_be_held && is_falling(&clean, &falling, to)) {
        falling.spikes = to->spikes;
        rgp_process_clear(to);
        *to = falling;
        return true;
    }
    to->may_fall = could_be_held && to->misses && leaves_less(&clean, &falling, to, MAY_FALL_LEFT);
    rgp_process_clear(&falling);
    return true;
}

void rgp_process_clear(rgp_process *p)
{
    g_free(p->fitted);
    p->fitted = NULL;
}
