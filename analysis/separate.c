/* Conditions told apart: the border between two captured conditions, and how well it separates them. */
#include "separate.h"

#include <math.h>
#include <stdlib.h>

#define APART  3.0 /* deviations: where a condition's values end; and the least margin that noise does not cross */
#define DRIFTS 2.0

static int by_mean(const void *a, const void *b)
{
    const rgp_condition *x = a, *y = b;
    return (x->mean > y->mean) - (x->mean < y->mean);
}

static void measure(rgp_condition *c)
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

static double mistaken(const rgp_condition *low, const rgp_condition *high, double border)
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

/* The border from which both are equally many deviations away. */
static double fair_border(const rgp_condition *low, const rgp_condition *high)
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
static double half_gap(const rgp_condition *low, const rgp_condition *high)
{
    return 0.5 * ((high->mean - APART * high->spread) - (low->mean + APART * low->spread));
}

/* The drift of a condition by its straight line, when that is more than noise about a fixed value does (a ramp without
 * noise: 3.5 deviations). */
static double drift(const rgp_condition *c)
{
    const guint n = c->value->len;
    double products = 0.0;
    for (guint i = 0; i < n; i++) {
        products += ((double)i - (n - 1) / 2.0) * (g_array_index(c->value, double, i) - c->mean);
    }
    const double moved = n > 1 ? 12.0 * products / ((double)n * n - 1.0) : 0.0;
    return fabs(moved) > DRIFTS * c->spread ? moved : 0.0;
}

static void describe_condition(const rgp_condition *c, const char *unit, GString *to)
{
    const double moved = drift(c);
    g_string_append_printf(to, "'%s' (%.4g %s, scattering by %.2g%s", c->name, c->mean, unit, c->spread,
                           moved != 0.0 ? "" : ")");
    if (moved != 0.0) {
        g_string_append_printf(to, ", for it drifts: by %.3g in the window)", moved);
    }
}

static char *why_not_apart(const rgp_condition *low, const rgp_condition *high, const char *unit)
{
    const double border = fair_border(low, high), wrong = mistaken(low, high, border);
    g_autoptr(GString) text = g_string_new(NULL);
    describe_condition(low, unit, text);
    g_string_append(text, " and ");
    describe_condition(high, unit, text);
    g_string_append(text, " cannot be told apart with a margin: ");
    if (wrong > 0.0) {
        g_string_append_printf(text, "at the best border, %.4g %s, %.2g %% of the single values are on the wrong side",
                               border, unit, 100.0 * wrong);
    } else {
        g_string_append_printf(text,
                               "no value is beyond the best border, %.4g %s, yet three times the scatter on both sides "
                               "leaves no room for a margin",
                               border, unit);
    }
    g_string_append(text, drift(low) != 0.0 || drift(high) != 0.0
                              ? "; wait until both stand still"
                              : "; take a steadier signal (for instance with 'smooth'), or fewer conditions");
    return g_string_free(g_steal_pointer(&text), FALSE);
}

bool rgp_separate(rgp_condition *c, guint count, const char *unit, rgp_separation *found, char **reason)
{
    double least_gap = INFINITY, noise = 0.0;
    for (guint i = 0; i < count; i++) {
        measure(&c[i]);
        noise = fmax(noise, c[i].spread);
    }
    qsort(c, count, sizeof *c, by_mean);
    for (guint i = 0; i + 1 < count; i++) {
        const rgp_condition *low = &c[i], *high = &c[i + 1];
        const double half = half_gap(low, high);
        if (half < APART * noise || !(high->mean > low->mean)) {
            *reason = why_not_apart(low, high, unit);
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
