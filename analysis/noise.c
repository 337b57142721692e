/* Noise by the median of differences. */
#include "noise.h"

#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>

#include <glib.h>
#include <math.h>

#define SAMPLE_MOST 200000u /* differences that a median is taken of */
#define HIGH        0.9     /* the share of differences that are taken to be no spikes */
#define HIGH_NORMAL 1.645   /* what that many lie within, in standard deviations of a normal distribution */
#define HOLD_MOST   0.999
#define FAR         64u /* values: as far apart as is looked at */
#define GROWS       1.2 /* times the variance at half the distance: it has not forgotten itself yet */

/* On average another value comes after so many. */
static size_t lag_of(const double *value, size_t count)
{
    size_t pairs = 0, changes = 0;
    for (size_t i = 1; i < count; i++) {
        const double is = fabs(value[i] - value[i - 1]);
        pairs += isnan(is) ? 0 : 1;
        changes += is > 0.0 ? 1 : 0;
    }
    return changes > 0 ? (size_t)llround((double)pairs / (double)changes) : 1;
}

rgp_noise rgp_noise_of(const double *value, size_t count)
{
    const size_t lag = lag_of(value, count), stride = 1 + count / SAMPLE_MOST;
    g_autofree double *difference = g_malloc_n(count / stride + 1, sizeof *difference);
    size_t n = 0, since = 0; /* since: the first value behind the last gap */
    for (size_t i = 0; i < count; i++) {
        since = isnan(value[i]) ? i + 1 : since;
        if (i >= since + lag && i % stride == 0) {
            difference[n++] = fabs(value[i] - value[i - lag]);
        }
    }
    double step = INFINITY;
    for (size_t i = 0; i < n; i++) {
        step = difference[i] > 0.0 && difference[i] < step ? difference[i] : step;
    }
    step = isfinite(step) ? step : 0.0;
    const double median = n > 0 ? gsl_stats_median(difference, 1, n) : 0.0;
    return (rgp_noise){fmax(1.4826 * median / sqrt(2.0), step / sqrt(12.0)), step};
}

rgp_noise rgp_noise_of_readings(const double *value, size_t count)
{
    g_autofree double *reading = g_new0(double, count + 2);
    size_t n = 0;
    for (size_t i = 0; i < count; i++) {
        reading[n] = value[i];
        n += isnan(value[i]) ? 0 : 1;
    }
    return rgp_noise_of(reading, n);
}

/* The standard deviation of differences of values so far apart. */
static double deviation_at(const double *value, size_t count, size_t lag)
{
    const size_t stride = 1 + count / SAMPLE_MOST;
    g_autofree double *difference = g_malloc_n(count / stride + 1, sizeof *difference);
    size_t n = 0;
    for (size_t i = lag; i < count; i += stride) {
        const double is = fabs(value[i] - value[i - lag]);
        difference[n] = is;
        n += isnan(is) ? 0 : 1;
    }
    gsl_sort(difference, 1, n);
    return n > 0 ? gsl_stats_quantile_from_sorted_data(difference, 1, n, HIGH) / HIGH_NORMAL : 0.0;
}

rgp_coloured rgp_noise_coloured(const double *value, size_t count)
{
    const double one = deviation_at(value, count, 1);
    double is = one, next = deviation_at(value, count, 2);
    for (size_t lag = 2; lag < FAR && next * next > GROWS * is * is; lag *= 2) {
        is = next;
        next = deviation_at(value, count, 2 * lag);
    }
    const double hold = is > 0.0 ? 1.0 - one * one / (is * is) : 0.0;
    return (rgp_coloured){is / sqrt(2.0), CLAMP(hold, 0.0, HOLD_MOST)};
}
