/* Scores by running minima, and what idle time is like. */
#include "trigger_scores.h"

#include "noise.h"

#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>
#include <string.h>

#define FEW         30u
#define SAMPLE_MOST 200000u /* values that a median is taken of */

/* ---- running minima -------------------------------------------------------------------------------- */

/* The values of a recording as scores are: what cannot be trusted is lower than all. */
static float *heights_of(const rgp_values *v, bool above)
{
    float *x = g_malloc_n(v->from->rows + 1u, sizeof *x);
    for (uint32_t row = 0; row < v->from->rows; row++) {
        const float is = above ? v->value[row] : -v->value[row];
        x[row] = isnan(is) ? -INFINITY : is;
    }
    return x;
}

/* By row: the greatest limit at which a rule fires in it, from the least of the last `width` values. Each row is in a
 * block of that many; the least of a window is that of the end of one block and of the beginning of the next (van Herk
 * 1992, Gil and Werman 1993). `to` has room for the rows; it holds the least up to the end of the block first. */
static void limits_in(const float *x, uint32_t rows, const rgp_trigger_form *form, float *to)
{
    const uint32_t width = form->width;
    const float margin = (float)form->margin;
    for (uint32_t block = 0; block < rows; block += width) {
        const uint32_t end = MIN(rows, block + width);
        float least = INFINITY;
        for (uint32_t row = end; row-- > block;) {
            least = x[row] < least ? x[row] : least;
            to[row] = least;
        }
    }
    for (uint32_t block = 0; block < rows; block += width) {
        const uint32_t end = MIN(rows, block + width);
        float least = INFINITY;
        for (uint32_t row = block; row < end; row++) {
            least = x[row] < least ? x[row] : least;
            if (row + 1 >= width) { /* the window's first row; its place has been used, and takes the result */
                const uint32_t first = row + 1 - width;
                const float whole = (to[first] < least ? to[first] : least) + margin;
                to[first] = x[first] < whole ? x[first] : whole;
            }
        }
    }
}

/* Of spans the greatest limit of the windows that end in them; the one of a window stands at its first row. */
static void greatest_in(const float *limit, const GArray *spans, guint run, uint32_t width, double *to)
{
    for (guint i = 0; i < spans->len; i++) {
        const rgp_rows *span = &g_array_index(spans, rgp_rows, i);
        float most = -INFINITY;
        if (span->run != run) {
            continue;
        }
        for (uint32_t row = MAX(span->from, width - 1); row < span->to; row++) {
            const float is = limit[row + 1 - width];
            most = is > most ? is : most;
        }
        to[i] = (double)most;
    }
}

void rgp_trigger_scores_of(const rgp_series *series, guint name, const rgp_labels *labels, const rgp_trigger_form *form,
                           rgp_trigger_scores *to)
{
    rgp_trigger_scores_by(series, name, labels, form, &form->width, 1, to);
}

/* Recording by recording, so that its values are brought into shape once for all widths. */
void rgp_trigger_scores_by(const rgp_series *series, guint name, const rgp_labels *labels, const rgp_trigger_form *form,
                           const uint32_t *width, guint widths, rgp_trigger_scores *to)
{
    for (guint i = 0; i < widths; i++) {
        to[i] = (rgp_trigger_scores){.width = width[i],
                                     .event = g_malloc_n(labels->event->len + 1, sizeof(double)),
                                     .piece = g_malloc_n(labels->piece->len + 1, sizeof(double))};
    }
    for (guint run = 0; run < labels->runs; run++) {
        const rgp_values v = rgp_series_values(series, labels->run, run, name);
        g_autofree float *x = heights_of(&v, form->above), *limit = g_malloc0_n(v.from->rows + 1u, sizeof *limit);
        for (guint i = 0; i < widths; i++) {
            const rgp_trigger_form one = {form->above, width[i], form->margin};
            limits_in(x, v.from->rows, &one, limit);
            greatest_in(limit, labels->event, run, width[i], to[i].event);
            greatest_in(limit, labels->piece, run, width[i], to[i].piece);
        }
    }
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

/* Values of rows, so few that a median takes no time. */
static void sample_rows(const rgp_values *v, const rgp_rows *rows, uint32_t stride, GArray *value)
{
    for (uint32_t row = rows->from; row < rows->to; row += stride) {
        const double is = (double)v->value[row];
        if (!isnan(is)) {
            g_array_append_val(value, is);
        }
    }
}

/* All values of rows, and a gap. */
static void append_rows(const rgp_values *v, const rgp_rows *rows, GArray *all)
{
    const double gap = (double)NAN;
    for (uint32_t row = rows->from; row < rows->to; row++) {
        const double is = (double)v->value[row];
        g_array_append_val(all, is);
    }
    g_array_append_val(all, gap);
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
                      all = g_array_new(FALSE, FALSE, sizeof(double)),
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
        sample_rows(&v, block, stride, own);
        append_rows(&v, block, all);
        if (own->len > 0) {
            g_array_append_vals(value, own->data, own->len);
            const double median = median_of(own);
            g_array_append_val(medians, median);
            g_array_append_val(of_run, block->run);
        }
    }
    to.median = median_of(value);
    const rgp_noise noise = rgp_noise_of((const double *)(void *)all->data, all->len);
    to.sigma = noise.sigma;
    to.count = noise.step;
    to.spread = spread_within(l, medians, of_run);
    return to;
}

/* ---- its memory ------------------------------------------------------------------------------------ */

/* Of marks, one a row of a stretch, 1 where it is above. */
typedef struct marked {
    uint8_t *is;
    uint32_t rows;
} marked;

static void add_products(const marked *m, uint32_t lag, double sum[4])
{
    uint32_t first = 0, second = 0, both = 0;
    for (uint32_t row = 0; row + lag < m->rows; row++) {
        first += m->is[row];
        second += m->is[row + lag];
        both += m->is[row] & m->is[row + lag];
    }
    sum[0] += m->rows > lag ? m->rows - lag : 0;
    sum[1] += first;
    sum[2] += second;
    sum[3] += both;
}

static double correlation_at(const marked *m, guint count, uint32_t lag)
{
    double sum[4] = {0.0};
    for (guint i = 0; i < count; i++) {
        add_products(&m[i], lag, sum);
    }
    const double n = fmax(sum[0], 1.0), p = sum[1] / n, q = sum[2] / n, spread = sqrt(p * (1.0 - p) * q * (1.0 - q));
    return spread > 0.0 ? (sum[3] / n - p * q) / spread : 0.0;
}

static marked mark_rows(const rgp_values *v, const rgp_rows *idle, float limit, bool above)
{
    const marked m = {g_malloc(idle->to - idle->from + 1u), idle->to - idle->from};
    for (uint32_t i = 0; i < m.rows; i++) {
        m.is[i] = above ? v->value[idle->from + i] > limit : v->value[idle->from + i] < limit;
    }
    return m;
}

static double limit_of_few(const rgp_series *series, guint name, const rgp_labels *l, bool above)
{
    const rgp_trigger_form form = {above, 1, 0.0};
    const guint pieces = l->piece->len;
    rgp_trigger_scores scores;
    rgp_trigger_scores_of(series, name, l, &form, &scores);
    gsl_sort(scores.piece, 1, pieces);
    const double limit = pieces == 0 ? 0.0 : scores.piece[pieces < 2 * FEW ? pieces / 2 : pieces - 1 - FEW];
    rgp_trigger_scores_clear(&scores);
    return above ? limit : -limit;
}

double rgp_idle_memory(const rgp_series *series, guint name, const rgp_labels *l, bool above)
{
    const float limit = (float)limit_of_few(series, name, l, above);
    g_autofree marked *m = g_malloc_n(l->idle->len, sizeof *m);
    uint32_t longest = 1, lag = 1;
    for (guint i = 0; i < l->idle->len; i++) {
        const rgp_rows *idle = &g_array_index(l->idle, rgp_rows, i);
        const rgp_values v = rgp_series_values(series, l->run, idle->run, name);
        longest = MAX(longest, idle->to - idle->from);
        m[i] = mark_rows(&v, idle, limit, above);
    }
    while (lag < longest / 4 && correlation_at(m, l->idle->len, lag) >= 0.1) {
        lag += 1 + lag / 4;
    }
    for (guint i = 0; i < l->idle->len; i++) {
        g_free(m[i].is);
    }
    return lag * l->tick_s;
}
