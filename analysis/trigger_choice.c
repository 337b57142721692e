/* The cost of limits, and the least one. */
#include "trigger_choice.h"

#include <gsl/gsl_cdf.h>
#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>
#include <string.h>

#define TAIL_FROM    0.9  /* of idle pieces */
#define GRID         200u /* limits between the tail's beginning and the highest event */
#define FLAT         1.05 /* times the least cost */
#define HEIGHT_LEAST 1e-9

/* ---- widths ---------------------------------------------------------------------------------------- */

/* 1, 2, 3, 5, 8, 12, 20, 32, 50, 80, 120, ... rows. */
static uint32_t width_at(guint i)
{
    static const uint32_t first[] = {1, 2, 3, 5, 8}, decade[] = {12, 20, 32, 50, 80};
    uint32_t times = 1;
    if (i < G_N_ELEMENTS(first)) {
        return first[i];
    }
    for (guint k = (i - 5) / 5; k > 0; k--) {
        times *= 10;
    }
    return decade[(i - 5) % 5] * times;
}

void rgp_trigger_widths_of(const rgp_series *series, guint name, const rgp_labels *l, const rgp_trigger_form *form,
                           guint stride, rgp_trigger_widths *to)
{
    uint32_t width[RGP_WIDTHS_MOST];
    to->count = 0;
    for (guint i = 0; i < RGP_WIDTHS_MOST && (i == 0 || width_at(i) <= form->width); i += stride) {
        width[to->count++] = width_at(i);
    }
    rgp_trigger_scores_by(series, name, l, form, width, to->count, to->at);
}

void rgp_trigger_widths_clear(rgp_trigger_widths *w)
{
    for (guint i = 0; i < w->count; i++) {
        rgp_trigger_scores_clear(&w->at[i]);
    }
    w->count = 0;
}

/* ---- what chooses ---------------------------------------------------------------------------------- */

/* The scores of one width that choose, sorted, and their tails. */
typedef struct tails {
    double *piece, *event;
    size_t pieces, events;
    double from, excess;   /* of idle pieces: the tail's beginning, and its mean excess */
    double height, spread; /* of the logarithm of an event's height above idle time */
    double idle;
} tails;

static size_t chosen(const GArray *spans, const double *score, guint but, double *to)
{
    size_t count = 0;
    for (guint i = 0; i < spans->len; i++) {
        const rgp_rows *span = &g_array_index(spans, rgp_rows, i);
        if (!span->judges && !span->gap && i != but && isfinite(score[i])) {
            to[count++] = score[i];
        }
    }
    gsl_sort(to, 1, count);
    return count;
}

static void tail_of_idle(tails *t, double sigma)
{
    double sum = 0.0;
    const size_t from = (size_t)(TAIL_FROM * (double)t->pieces);
    t->from = t->pieces > 0 ? t->piece[MIN(from, t->pieces - 1)] : t->idle;
    for (size_t i = from; i < t->pieces; i++) {
        sum += t->piece[i] - t->from;
    }
    t->excess = fmax(sum / fmax(1.0, (double)(t->pieces - from)), sigma / 2.0);
    t->excess = fmax(t->excess, HEIGHT_LEAST);
}

static void tail_of_events(tails *t, double sigma)
{
    g_autofree double *height = g_malloc_n(t->events + 1, sizeof *height);
    const double n = (double)t->events;
    for (size_t i = 0; i < t->events; i++) {
        height[i] = log(fmax(t->event[i] - t->idle, HEIGHT_LEAST));
    }
    t->height = n > 0.0 ? gsl_stats_median_from_sorted_data(height, 1, t->events) : 0.0;
    for (size_t i = 0; i < t->events; i++) {
        height[i] = fabs(height[i] - t->height);
    }
    gsl_sort(height, 1, t->events);
    const double scatter = n > 0.0 ? 1.4826 * gsl_stats_median_from_sorted_data(height, 1, t->events) : 0.0;
    t->spread = fmax(scatter, sigma / fmax(exp(t->height), HEIGHT_LEAST)) * sqrt((n + 1.0) / fmax(n, 1.0));
    t->spread = fmax(t->spread, HEIGHT_LEAST);
}

static tails tails_of(const rgp_trigger_ask *ask, guint width, guint but)
{
    const rgp_labels *l = ask->labels;
    const rgp_trigger_scores *s = &ask->widths->at[width];
    tails t = {.piece = g_malloc_n(l->piece->len + 1, sizeof(double)),
               .event = g_malloc_n(l->event->len + 1, sizeof(double)),
               .idle = ask->above ? ask->idle.median : -ask->idle.median};
    t.pieces = chosen(l->piece, s->piece, UINT_MAX, t.piece);
    t.events = chosen(l->event, s->event, but, t.event);
    tail_of_idle(&t, ask->idle.sigma);
    tail_of_events(&t, ask->idle.sigma);
    return t;
}

static void clear_tails(tails *t)
{
    g_free(t->piece);
    g_free(t->event);
}

/* ---- the cost -------------------------------------------------------------------------------------- */

/* Of sorted numbers, how many are not above. */
static size_t not_above(const double *of, size_t count, double limit)
{
    size_t low = 0, high = count;
    while (low < high) {
        const size_t middle = low + (high - low) / 2;
        if (of[middle] <= limit) {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    return low;
}

static double cost_of(const tails *t, const rgp_trigger_cost *c, double limit)
{
    const double an_hour = 3600.0 / RGP_PIECE_S, pieces = fmax(1.0, (double)t->pieces), events = (double)t->events;
    const double seen = (pieces - (double)not_above(t->piece, t->pieces, limit)) / pieces,
                 tail = limit > t->from ? (1.0 - TAIL_FROM) * exp(-(limit - t->from) / t->excess) : seen;
    const double missed = events > 0.0 ? (double)not_above(t->event, t->events, limit) / events : 0.0,
                 height = log(fmax(limit - t->idle, HEIGHT_LEAST)),
                 too_low = gsl_cdf_ugaussian_P((height - t->height) / t->spread);
    return c->of_false * fmax(seen, tail) * an_hour + c->of_miss * c->events_an_hour * fmax(missed, too_low);
}

double rgp_trigger_cost_at(const rgp_trigger_ask *ask, guint width, double limit)
{
    tails t = tails_of(ask, width, UINT_MAX);
    const double cost = cost_of(&t, &ask->cost, limit);
    clear_tails(&t);
    return cost;
}

/* All limits that are tried, sorted: those at which what is seen changes, and an even grid. */
static GArray *limits_of(const tails *t)
{
    GArray *all = g_array_new(FALSE, FALSE, sizeof(double));
    const double top = t->events > 0 ? t->event[t->events - 1] : t->from;
    for (size_t i = (size_t)(TAIL_FROM * (double)t->pieces); i < t->pieces; i++) {
        g_array_append_val(all, t->piece[i]);
    }
    for (size_t i = 0; i < t->events; i++) {
        const double below = nextafter(t->event[i], -(double)INFINITY); /* at its own score it would not fire */
        g_array_append_val(all, below);
    }
    for (guint i = 0; i <= GRID; i++) {
        const double at = t->from + (top - t->from) * i / GRID;
        g_array_append_val(all, at);
    }
    gsl_sort((double *)(void *)all->data, 1, all->len);
    return all;
}

/* The limit at which the cost passes `most`, between a limit at which it does not and one at which it does. */
static double edge_of_flat(const tails *t, const rgp_trigger_cost *c, double inside, double outside, double most)
{
    for (int i = 0; i < 30; i++) {
        const double middle = inside + (outside - inside) / 2.0;
        if (cost_of(t, c, middle) <= most) {
            inside = middle;
        } else {
            outside = middle;
        }
    }
    return inside;
}

static rgp_trigger_choice choose_in(const rgp_trigger_ask *ask, guint width, guint but)
{
    tails t = tails_of(ask, width, but);
    g_autoptr(GArray) limit = limits_of(&t);
    g_autofree double *cost = g_malloc_n(limit->len, sizeof *cost);
    guint best = 0;
    for (guint i = 0; i < limit->len; i++) {
        cost[i] = cost_of(&t, &ask->cost, g_array_index(limit, double, i));
        best = cost[i] < cost[best] ? i : best;
    }
    guint low = best, high = best;
    while (low > 0 && cost[low - 1] <= FLAT * cost[best]) {
        low--;
    }
    while (high + 1 < limit->len && cost[high + 1] <= FLAT * cost[best]) {
        high++;
    }
    const double *at = (const double *)(const void *)limit->data, most = FLAT * cost[best];
    const rgp_trigger_choice choice = {
        width, at[best], low > 0 ? edge_of_flat(&t, &ask->cost, at[low], at[low - 1], most) : at[low],
        high + 1 < limit->len ? edge_of_flat(&t, &ask->cost, at[high], at[high + 1], most) : at[high], cost[best]};
    clear_tails(&t);
    return choice;
}

rgp_trigger_choice rgp_trigger_choose(const rgp_trigger_ask *ask, guint but)
{
    rgp_trigger_choice best = choose_in(ask, 0, but);
    for (guint i = 1; i < ask->widths->count; i++) {
        const rgp_trigger_choice one = choose_in(ask, i, but);
        best = one.cost < best.cost ? one : best;
    }
    return best;
}

double rgp_trigger_round(double low, double high)
{
    const double middle = low + (high - low) / 2.0;
    static const double part[] = {5.0, 2.0, 1.0};
    if (!(high > low)) {
        return low;
    }
    for (double decade = pow(10.0, ceil(log10(fmax(fabs(low), fabs(high))))); decade > 1e-12 * fabs(middle);
         decade /= 10.0) {
        for (size_t i = 0; i < G_N_ELEMENTS(part); i++) {
            const double step = decade * part[i] / 10.0, at = round(middle / step) * step;
            if (at > low + (high - low) / 4.0 && at < high - (high - low) / 4.0) {
                return at;
            }
        }
    }
    return middle;
}

double rgp_trigger_area(const rgp_labels *l, const rgp_trigger_scores *s)
{
    g_autofree double *piece = g_malloc_n(l->piece->len + 1, sizeof *piece);
    size_t pieces = 0, events = 0;
    double area = 0.0;
    for (guint i = 0; i < l->piece->len; i++) {
        if (isfinite(s->piece[i])) {
            piece[pieces++] = s->piece[i];
        }
    }
    gsl_sort(piece, 1, pieces);
    for (guint i = 0; i < l->event->len; i++) {
        const size_t up_to = not_above(piece, pieces, s->event[i]),
                     below = not_above(piece, pieces, nextafter(s->event[i], -(double)INFINITY));
        area += ((double)up_to + (double)below) / 2.0;
        events++;
    }
    return pieces > 0 && events > 0 ? area / ((double)pieces * (double)events) : 0.5;
}
