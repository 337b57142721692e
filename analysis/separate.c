#include "separate.h"

#include <math.h>
#include <stdlib.h>

#define APART 3.0 /* deviations: where a condition's values end; and the least margin that noise does not cross */

static int by_mean(const void *a, const void *b)
{
    const rp_condition *x = a, *y = b;
    return (x->mean > y->mean) - (x->mean < y->mean);
}

static void measure(rp_condition *c)
{
    double mean = 0.0, squares = 0.0;
    for (guint i = 0; i < c->value->len; i++) {
        const double x = g_array_index(c->value, double, i), away = x - mean;
        mean += away / (i + 1);
        squares += away * (x - mean);
    }
    c->mean = mean;
    c->spread = c->value->len > 1 ? sqrt(squares / (c->value->len - 1)) : 0.0;
}

static double mistaken(const rp_condition *low, const rp_condition *high, double border)
{
    guint wrong = 0;
    for (guint i = 0; i < low->value->len; i++) {
        wrong += g_array_index(low->value, double, i) >= border;
    }
    for (guint i = 0; i < high->value->len; i++) {
        wrong += g_array_index(high->value, double, i) < border;
    }
    return (double)wrong / (low->value->len + high->value->len);
}

/* Where both are equally many deviations away. */
static double fair_border(const rp_condition *low, const rp_condition *high)
{
    const double both = low->spread + high->spread;
    return both > 0.0 ? (low->mean * high->spread + high->mean * low->spread) / both : (low->mean + high->mean) / 2.0;
}

/* A number with few digits that is at most `room` away from x. */
static double plain_number(double x, double room)
{
    const double step = pow(10.0, floor(log10(room)));
    for (double coarse = 10.0; coarse >= 1.0; coarse /= 2.0) {
        const double near = round(x / (step * coarse)) * step * coarse;
        if (fabs(near - x) <= room) {
            return near;
        }
    }
    return isfinite(step) && step > 0.0 ? round(x / step) * step : x;
}

/* Half of what lies free between the values of two neighbours. */
static double half_gap(const rp_condition *low, const rp_condition *high)
{
    return 0.5 * ((high->mean - APART * high->spread) - (low->mean + APART * low->spread));
}

bool rp_separate(rp_condition *c, guint count, const char *unit, rp_separation *found, char **reason)
{
    double least_gap = INFINITY, noise = 0.0;
    for (guint i = 0; i < count; i++) {
        measure(&c[i]);
        noise = fmax(noise, c[i].spread);
    }
    qsort(c, count, sizeof *c, by_mean);
    for (guint i = 0; i + 1 < count; i++) {
        const rp_condition *low = &c[i], *high = &c[i + 1];
        const double half = half_gap(low, high);
        if (half < APART * noise || !(high->mean > low->mean)) {
            *reason = g_strdup_printf(
                "'%s' (%.4g, scattering by %.2g %s) and '%s' (%.4g, by %.2g) cannot be told apart with a margin: at "
                "the "
                "best border, %.4g %s, %.2g %% of the single values are on the wrong side; take a steadier signal (for "
                "instance with 'smooth'), or fewer conditions",
                low->name, low->mean, low->spread, unit, high->name, high->mean, high->spread, fair_border(low, high),
                unit, 100.0 * mistaken(low, high, fair_border(low, high)));
            return false;
        }
        const double middle = low->mean + APART * low->spread + half;
        found->border[i] = plain_number(middle, 0.1 * half);
        found->mistaken[i] = mistaken(low, high, found->border[i]);
        least_gap = fmin(least_gap, half);
    }
    found->margin = plain_number(fmax(APART * noise, 0.3 * least_gap), 0.05 * least_gap);
    return true;
}
