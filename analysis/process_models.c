/* Models of all kinds: each fitted, and weighed against one another. */
#include "process_parts.h"

#include <math.h>
#include <string.h>

#define ROWS_LEAST 40u
#define NOTHING    1e-6 /* of a tick: no dead time */

const search process_careful = {10, 12, 400, 1e-7, RGP_PROCESS_INTEGRAL + 1, false},
             process_careful_loaded = {10, 12, 400, 1e-7, PROCESS_AVERAGED, false};

rgp_process_data process_shortened(const rgp_process_data *d, size_t most, double **driven, double **measured)
{
    const size_t each = MAX((d->count + most - 1) / most, (size_t)1), count = d->count / each;
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

double process_variance(const rgp_process_data *d, size_t usable)
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

bool process_is_enough(const rgp_process_data *d, size_t *usable)
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

/* The best of few shapes near that of a model without the second lag. False: none of them can be. */
static bool begin_near(const model *simpler, model *m)
{
    static const double share[] = {0.1, 0.3, 0.8}; /* of lag and dead time, or of the dead time alone */
    const bool goes_on = rgp_process_goes_on(m->f.kind);
    const double lag = exp(simpler->shape[SHAPE_LAG]), dead = simpler->shape[SHAPE_DEAD];
    double least = INFINITY;
    for (size_t i = 0; i < G_N_ELEMENTS(share); i++) {
        const double second = share[i] * (goes_on ? dead : lag);
        double at[PROCESS_SHAPES];
        memcpy(at, simpler->shape, sizeof at);
        at[SHAPE_LAG] = m->f.kind == RGP_PROCESS_TWIN ? log(lag * share[i]) : simpler->shape[SHAPE_LAG];
        at[SHAPE_SECOND] = log(fmax(second, 1.01 * m->f.data->tick));
        at[SHAPE_DEAD] = fmax(0.0, dead - (goes_on ? second : fmin(second, 0.7 * dead)));
        const double squares = process_squares(&m->f, at);
        if (squares < least) {
            least = squares;
            memcpy(m->shape, at, sizeof at);
        }
    }
    return least < PROCESS_NEVER;
}

static void fit_model(const fitting *f, rgp_process_kind kind, const model *simpler, model *m)
{
    *m = (model){.f = *f, .component = g_array_new(FALSE, TRUE, sizeof(component))};
    m->f.kind = kind;
    if (!simpler || !f->how->from_simpler || !begin_near(simpler, m)) {
        process_search_grid(&m->f, m->shape);
    }
    m->squares = process_search_around(&m->f, m->shape);
    process_criterion(m);
    m->criterion = m->squares < PROCESS_NEVER ? m->criterion : PROCESS_NEVER;
}

bool process_fit_all(fitting *f, model m[PROCESS_AVERAGED])
{
    const bool enough = process_is_enough(f->data, &f->usable);
    for (int i = 0; enough && i < f->how->kinds; i++) {
        const rgp_process_kind kind = (rgp_process_kind)i;
        const model *one = &m[rgp_process_goes_on(kind) ? RGP_PROCESS_INTEGRAL : RGP_PROCESS_LAG];
        fit_model(f, kind, rgp_process_has_two(kind) ? one : NULL, &m[i]);
    }
    return enough;
}

void process_clear_all(model m[PROCESS_AVERAGED])
{
    for (int i = 0; i < m->f.how->kinds; i++) {
        process_model_clear(&m[i]);
    }
}

const model *process_likeliest(const model m[PROCESS_AVERAGED], bool goes_on, const rgp_process *p)
{
    const rgp_process_kind first = goes_on ? RGP_PROCESS_INTEGRAL : RGP_PROCESS_LAG;
    rgp_process_kind best = first;
    for (rgp_process_kind i = first; (int)i < m->f.how->kinds && rgp_process_goes_on(i) == goes_on; i++) {
        best = p->weight[i] > p->weight[best] ? i : best;
    }
    return &m[best];
}

bool process_weigh(const model m[PROCESS_AVERAGED], rgp_process *to)
{
    const int kinds = m->f.how->kinds;
    double least = INFINITY, sum = 0.0, on_and_on = 0.0;
    for (int i = 0; i < kinds; i++) {
        least = fmin(least, m[i].criterion);
    }
    for (int i = 0; i < kinds; i++) {
        to->weight[i] = exp((least - m[i].criterion) / 2.0);
        sum += to->weight[i];
    }
    for (int i = 0; i < kinds; i++) {
        to->weight[i] /= sum;
        on_and_on += rgp_process_goes_on((rgp_process_kind)i) ? to->weight[i] : 0.0;
    }
    const rgp_process_data *d = m->f.data;
    const bool beyond = exp(process_likeliest(m, false, to)->shape[0]) > (double)d->count * d->tick;
    return beyond || on_and_on > 0.5;
}

/* A simplex never gets to 0. */
double process_dead(double found, double tick)
{
    return found > NOTHING * tick ? found : 0.0;
}
