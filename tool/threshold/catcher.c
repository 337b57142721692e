/* The catcher: values that go further than idle time did. */
#include "catcher.h"

#include "analysis/noise.h"

#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>

#define READINGS_LEAST 100u
#define NOISES         3.0 /* beyond the farthest of idle time */

void catcher_idle(catcher *c, double value)
{
    g_array_append_val(c->idle, value);
}

bool catcher_learn(catcher *c)
{
    const double *idle = (const double *)(void *)c->idle->data;
    g_autofree double *sorted = g_malloc_n(c->idle->len + 1, sizeof *sorted);
    size_t n = 0;
    for (guint i = 0; i < c->idle->len; i++) {
        if (!isnan(idle[i])) {
            sorted[n++] = idle[i];
        }
    }
    if (n < READINGS_LEAST) {
        return false;
    }
    const double room = NOISES * rgp_noise_of(idle, c->idle->len).sigma;
    gsl_sort(sorted, 1, n);
    c->median = gsl_stats_median_from_sorted_data(sorted, 1, n);
    c->low = sorted[0] - room;
    c->high = sorted[n - 1] + room;
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
        c->refused = true;
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
