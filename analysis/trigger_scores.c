/* Scores by running minima (Lemire 2006), and what idle time is like. */
#include "trigger_scores.h"

#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>
#include <string.h>

#define SAMPLE_MOST 200000u /* values that a median is taken of */

/* ---- running minima -------------------------------------------------------------------------------- */

/* The rows whose values may still become the least of a window, in a ring; their values rise. */
typedef struct window {
    uint32_t *row;
    double *value;
    uint32_t width, first, count, since; /* since: usable rows in a row */
} window;

/* The least of the last `width` values with this one; -INFINITY while there are not so many. */
static double least_with(window *w, uint32_t row, double value)
{
    if (isnan(value)) {
        w->count = w->since = 0;
        return -(double)INFINITY;
    }
    while (w->count > 0 && w->value[(w->first + w->count - 1) % w->width] >= value) {
        w->count--;
    }
    if (w->count > 0 && w->row[w->first] + w->width <= row) {
        w->first = (w->first + 1) % w->width;
        w->count--;
    }
    const uint32_t last = (w->first + w->count) % w->width;
    w->row[last] = row;
    w->value[last] = value;
    w->count++;
    w->since += w->since < w->width;
    return w->since == w->width ? w->value[w->first] : -(double)INFINITY;
}

/* Of spans that are sorted, and do not overlap: the greatest of each. */
static void greatest_in(const double *limit, const GArray *spans, guint run, double *to)
{
    for (guint i = 0; i < spans->len; i++) {
        const rgp_rows *span = &g_array_index(spans, rgp_rows, i);
        if (span->run == run) {
            to[i] = -(double)INFINITY;
            for (uint32_t row = span->from; row < span->to; row++) {
                to[i] = fmax(to[i], limit[row]);
            }
        }
    }
}

/* By row: the greatest limit at which the rule fires in it. */
static void limits_in(const rgp_values *v, const rgp_trigger_form *form, window *w, double *to)
{
    const double sign = form->above ? 1.0 : -1.0;
    w->count = w->since = w->first = 0;
    for (uint32_t row = 0; row < v->from->rows; row++) {
        const double least = least_with(w, row, sign * (double)v->value[row]);
        to[row] = isfinite(least) ? fmin(sign * (double)v->value[row + 1 - form->width], least + form->margin) : least;
    }
}

void rgp_trigger_scores_of(const rgp_series *series, guint name, const rgp_labels *labels, const rgp_trigger_form *form,
                           rgp_trigger_scores *to)
{
    *to = (rgp_trigger_scores){.width = form->width,
                               .event = g_malloc_n(labels->event->len + 1, sizeof(double)),
                               .piece = g_malloc_n(labels->piece->len + 1, sizeof(double))};
    window w = {.row = g_malloc_n(form->width, sizeof(uint32_t)),
                .value = g_malloc_n(form->width, sizeof(double)),
                .width = form->width};
    for (guint run = 0; run < labels->runs; run++) {
        const rgp_values v = rgp_series_values(series, labels->run, run, name);
        g_autofree double *limit = g_malloc_n(v.from->rows + 1u, sizeof *limit);
        limits_in(&v, form, &w, limit);
        greatest_in(limit, labels->event, run, to->event);
        greatest_in(limit, labels->piece, run, to->piece);
    }
    g_free(w.row);
    g_free(w.value);
}

void rgp_trigger_scores_clear(rgp_trigger_scores *s)
{
    g_free(s->event);
    g_free(s->piece);
}

/* ---- idle time ------------------------------------------------------------------------------------- */

static double median_of(GArray *of)
{
    gsl_sort((double *)(void *)of->data, 1, of->len);
    return of->len > 0 ? gsl_stats_median_from_sorted_data((double *)(void *)of->data, 1, of->len) : (double)NAN;
}

/* Values of rows, and differences from one to the next, of so many rows that a median takes no time. */
static void sample_rows(const rgp_values *v, const rgp_rows *rows, uint32_t stride, GArray *value, GArray *difference)
{
    for (uint32_t row = rows->from; row < rows->to; row += stride) {
        const double is = (double)v->value[row], next = row + 1 < rows->to ? (double)v->value[row + 1] : (double)NAN;
        if (!isnan(is)) {
            g_array_append_val(value, is);
        }
        if (!isnan(next - is)) {
            const double step = fabs(next - is);
            g_array_append_val(difference, step);
        }
    }
}

/* The differences' least that is not 0, and the noise by their median. */
static void noise_of(GArray *difference, rgp_idle_level *to)
{
    const double median = median_of(difference);
    for (guint i = 0; i < difference->len && to->count == 0.0; i++) {
        to->count = g_array_index(difference, double, i);
    }
    to->sigma = fmax(isnan(median) ? 0.0 : 1.4826 * median / sqrt(2.0), to->count / sqrt(12.0));
}

static double spread_within(const rgp_labels *l, GArray *medians, const GArray *run)
{
    double sum = 0.0, freedom = 0.0;
    for (guint i = 0; i < l->runs; i++) {
        double mean = 0.0, square = 0.0, n = 0.0;
        for (guint k = 0; k < medians->len; k++) {
            if (g_array_index(run, guint, k) == i) {
                const double is = g_array_index(medians, double, k);
                n += 1.0;
                square += (is - mean) * (is - mean) * (n - 1.0) / n;
                mean += (is - mean) / n;
            }
        }
        sum += square;
        freedom += fmax(0.0, n - 1.0);
    }
    return freedom > 0.0 ? sqrt(sum / freedom) : 0.0;
}

rgp_idle_level rgp_idle_level_of(const rgp_series *series, guint name, const rgp_labels *l, guint run)
{
    g_autoptr(GArray) value = g_array_new(FALSE, FALSE, sizeof(double)),
                      difference = g_array_new(FALSE, FALSE, sizeof(double)),
                      medians = g_array_new(FALSE, FALSE, sizeof(double)),
                      of_run = g_array_new(FALSE, FALSE, sizeof(guint));
    rgp_idle_level to = {0};
    uint64_t rows = 0;
    for (guint i = 0; i < l->block->len; i++) {
        rows += g_array_index(l->block, rgp_rows, i).to - g_array_index(l->block, rgp_rows, i).from;
    }
    const uint32_t stride = 1 + (uint32_t)(rows / SAMPLE_MOST);
    for (guint i = 0; i < l->block->len; i++) {
        const rgp_rows *block = &g_array_index(l->block, rgp_rows, i);
        if (run < l->runs ? block->run != run : block->judges) {
            continue;
        }
        const rgp_values v = rgp_series_values(series, l->run, block->run, name);
        g_autoptr(GArray) own = g_array_new(FALSE, FALSE, sizeof(double));
        sample_rows(&v, block, stride, own, difference);
        if (own->len > 0) {
            g_array_append_vals(value, own->data, own->len);
            const double median = median_of(own);
            g_array_append_val(medians, median);
            g_array_append_val(of_run, block->run);
        }
    }
    to.median = median_of(value);
    noise_of(difference, &to);
    to.spread = spread_within(l, medians, of_run);
    return to;
}

/* ---- its memory ------------------------------------------------------------------------------------ */

static double correlation_at(const rgp_series *series, guint name, const rgp_labels *l, double limit, double sign,
                             uint32_t lag)
{
    double n = 0.0, first = 0.0, second = 0.0, both = 0.0;
    for (guint i = 0; i < l->idle->len; i++) {
        const rgp_rows *idle = &g_array_index(l->idle, rgp_rows, i);
        const rgp_values v = rgp_series_values(series, l->run, idle->run, name);
        for (uint32_t row = idle->from; row + lag < idle->to; row++) {
            const bool a = sign * (double)v.value[row] > limit, b = sign * (double)v.value[row + lag] > limit;
            n += 1.0;
            first += a;
            second += b;
            both += a && b;
        }
    }
    const double p = first / fmax(n, 1.0), q = second / fmax(n, 1.0), spread = sqrt(p * (1.0 - p) * q * (1.0 - q));
    return spread > 0.0 ? (both / n - p * q) / spread : 0.0;
}

double rgp_idle_memory(const rgp_series *series, guint name, const rgp_labels *l, bool above)
{
    g_autoptr(GArray) value = g_array_new(FALSE, FALSE, sizeof(double)),
                      difference = g_array_new(FALSE, FALSE, sizeof(double));
    const double sign = above ? 1.0 : -1.0;
    uint64_t rows = 0;
    uint32_t longest = 1;
    for (guint i = 0; i < l->idle->len; i++) {
        const rgp_rows *idle = &g_array_index(l->idle, rgp_rows, i);
        rows += idle->to - idle->from;
        longest = MAX(longest, idle->to - idle->from);
    }
    for (guint i = 0; i < l->idle->len; i++) {
        const rgp_rows *idle = &g_array_index(l->idle, rgp_rows, i);
        const rgp_values v = rgp_series_values(series, l->run, idle->run, name);
        sample_rows(&v, idle, 1 + (uint32_t)(rows / SAMPLE_MOST), value, difference);
    }
    gsl_sort((double *)(void *)value->data, 1, value->len);
    if (value->len == 0) {
        return 0.0;
    }
    const double limit = sign * g_array_index(value, double, above ? (value->len * 9) / 10 : value->len / 10);
    uint32_t lag = 1;
    while (lag < longest / 4 && correlation_at(series, name, l, limit, sign, lag) >= 0.1) {
        lag += 1 + lag / 4;
    }
    return lag * l->tick_s;
}
