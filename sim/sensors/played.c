/* A played table, looked up by its moments. */
#include "played.h"

#include "played_table.h"

#include <gsl/gsl_statistics_double.h>
#include <math.h>

/* Rows [0, count) rise in time. */
struct played {
    GArray *row;      /* played_row */
    uint64_t span_us; /* from the first row to the end of the last one */
    bool again;
    char *unit;
};

static const played_row *row_at(const played *p, int64_t row)
{
    return &g_array_index(p->row, played_row, (guint)((row - 1) % (int64_t)p->row->len));
}

static uint64_t first_us(const played *p)
{
    return g_array_index(p->row, played_row, 0).time_us;
}

/* The rows up to then, in the first pass through the table; of several of one moment the first is read at it. */
static guint rows_until(const played *p, uint64_t time_us)
{
    guint low = 0, high = p->row->len; /* rows before `low` are earlier, from `high` on they are not */
    while (low < high) {
        const guint middle = low + (high - low) / 2;
        if (g_array_index(p->row, played_row, middle).time_us < time_us) {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    return low + (low < p->row->len && g_array_index(p->row, played_row, low).time_us == time_us ? 1 : 0);
}

int64_t played_row_by(const played *p, uint64_t time_us)
{
    if (time_us < first_us(p) || !p->again) {
        return rows_until(p, time_us);
    }
    const uint64_t passed = time_us - first_us(p);
    return (int64_t)(passed / p->span_us * p->row->len) + rows_until(p, first_us(p) + passed % p->span_us);
}

uint64_t played_moment(const played *p, int64_t row)
{
    return row_at(p, row)->time_us + (uint64_t)((row - 1) / (int64_t)p->row->len) * p->span_us;
}

double played_value(const played *p, int64_t row)
{
    return row_at(p, row)->value;
}

static bool is_over(const played *p, uint64_t time_us)
{
    return !p->again && time_us >= first_us(p) + p->span_us;
}

double played_mean(const played *p, uint64_t time_us, uint64_t lasting_us)
{
    const int64_t newest = played_row_by(p, time_us);
    const int64_t oldest = MAX(1, newest - (int64_t)p->row->len + 1); /* through the whole table it is the same again */
    double mean = newest > 0 && !is_over(p, time_us) ? played_value(p, newest) : NAN;
    double count = 1.0;
    for (int64_t i = newest - 1; i >= oldest && played_moment(p, i) + lasting_us > time_us; i--) {
        if (!isnan(played_value(p, i))) {
            mean += (played_value(p, i) - mean) / ++count;
        }
    }
    return mean;
}

double played_pace(const played *p)
{
    const guint rows = p->row->len;
    const uint64_t passed = g_array_index(p->row, played_row, rows - 1).time_us - first_us(p);
    return rows > 1 ? (double)passed / 1e6 / (rows - 1) : 0.0;
}

/* |x[i-1] - 2 x[i] + x[i+1]| of noise of deviation s has the deviation sqrt(6) s and the median 0.6745 times that; a
 * slope leaves no trace in it. */
double played_noise(const played *p)
{
    gsize bends = 0;
    g_autofree double *bend = g_new(double, p->row->len);
    for (int64_t i = 2; i < (int64_t)p->row->len; i++) {
        const double b = fabs(played_value(p, i - 1) - 2.0 * played_value(p, i) + played_value(p, i + 1));
        if (!isnan(b)) {
            bend[bends++] = b;
        }
    }
    return bends > 0 ? gsl_stats_median(bend, 1, bends) / (0.6745 * sqrt(6.0)) : 0.0;
}

const char *played_unit(const played *p)
{
    return p->unit;
}

/* ---- making one ------------------------------------------------------------------------------------ */

/* The time for which the last row holds. */
static uint64_t last_holds_us(const GArray *row, uint32_t tick_us)
{
    const played_row *end = &g_array_index(row, played_row, row->len - 1);
    return row->len > 1 ? MAX(1, end->time_us - end[-1].time_us) : tick_us;
}

static gint by_time(gconstpointer a, gconstpointer b)
{
    const played_row *x = a, *y = b;
    return (x->time_us > y->time_us) - (x->time_us < y->time_us);
}

/* Edges before the first row and behind the end of the last one are not of this table. The sort is stable: an edge
 * stands behind a row of its moment, which may have been read just before it. */
static void join_edges(played *p, const GArray *edge)
{
    const uint64_t from_us = first_us(p);
    for (guint i = 0; i < edge->len; i++) {
        const played_row *e = &g_array_index(edge, played_row, i);
        if (e->time_us >= from_us && e->time_us - from_us < p->span_us) {
            g_array_append_vals(p->row, e, 1);
        }
    }
    g_array_sort(p->row, by_time);
}

played *played_new(const played_ask *ask, GError **error)
{
    played_table table = {.row = g_array_new(FALSE, FALSE, sizeof(played_row)),
                          .edge = g_array_new(FALSE, FALSE, sizeof(played_row))};
    played *p = NULL;
    if (played_table_read(&table, ask, error)) {
        p = g_new0(played, 1);
        *p = (played){.row = g_array_ref(table.row), .again = ask->again, .unit = g_strdup(table.unit)};
        p->span_us = g_array_index(p->row, played_row, p->row->len - 1).time_us - first_us(p) +
                     last_holds_us(p->row, ask->tick_us);
        join_edges(p, table.edge);
    }
    played_table_clear(&table);
    return p;
}

void played_free(played *p)
{
    if (p) {
        g_array_unref(p->row);
        g_free(p->unit);
        g_free(p);
    }
}
