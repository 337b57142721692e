/* The catcher: values that go further than idle time did. */
#include "catcher.h"

#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>

#define READINGS_LEAST 100u
#define NOISES         3.0 /* beyond the farthest of idle time */

void catcher_idle(catcher *c, double value)
{
    if (!isnan(value)) {
        g_array_append_val(c->idle, value);
    }
}

/* The noise of one reading, by its differences; and at least a step. */
static double noise_of(const GArray *idle)
{
    g_autofree double *difference = g_malloc_n(idle->len, sizeof *difference);
    double step = 0.0;
    for (guint i = 1; i < idle->len; i++) {
        difference[i - 1] = fabs(g_array_index(idle, double, i) - g_array_index(idle, double, i - 1));
    }
    gsl_sort(difference, 1, idle->len - 1);
    for (guint i = 0; i + 1 < idle->len && step == 0.0; i++) {
        step = difference[i];
    }
    return fmax(1.4826 * gsl_stats_median_from_sorted_data(difference, 1, idle->len - 1) / sqrt(2.0), step / 3.0);
}

bool catcher_learn(catcher *c)
{
    if (c->idle->len < READINGS_LEAST) {
        return false;
    }
    g_autofree double *sorted = g_memdup2(c->idle->data, c->idle->len * sizeof *sorted);
    c->sigma = noise_of(c->idle);
    gsl_sort(sorted, 1, c->idle->len);
    c->median = gsl_stats_median_from_sorted_data(sorted, 1, c->idle->len);
    c->low = sorted[0] - NOISES * c->sigma;
    c->high = sorted[c->idle->len - 1] + NOISES * c->sigma;
    c->open = c->refused = false;
    return true;
}

static bool is_beyond(const catcher *c, double value)
{
    return (c->above && value > c->high) || (c->below && value < c->low);
}

static catch_news go_on(catcher *c, double time, bool beyond)
{
    if (beyond) {
        c->now.to = time;
    }
    if (!c->refused && c->now.to - c->now.from > CATCH_MOST_S) {
        c->refused = true;
        return CATCH_TOO_LONG;
    }
    if (time - c->now.to < CATCH_BACK_S) {
        return CATCH_NOTHING;
    }
    c->open = false;
    return c->refused ? CATCH_NOTHING : CATCH_TAKEN;
}

catch_news catcher_value(catcher *c, double time, double value)
{
    const bool bad = isnan(value), beyond = !bad && is_beyond(c, value);
    if (c->open && bad && !c->refused) {
        c->open = false;
        return CATCH_BAD;
    }
    if (c->open) {
        if (beyond && fabs(value - c->median) > fabs(c->now.peak - c->median)) {
            c->now.peak = value;
        }
        return go_on(c, time, beyond);
    }
    if (!beyond) {
        return CATCH_NOTHING;
    }
    c->open = true;
    c->refused = false;
    c->now = (caught){time, time, value};
    return CATCH_BEGUN;
}
