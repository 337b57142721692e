/* Noise by the median of differences. */
#include "noise.h"

#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>

#include <glib.h>
#include <math.h>

#define SAMPLE_MOST 200000u /* differences that a median is taken of */

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
    gsl_sort(difference, 1, n);
    size_t least = 0;
    while (least < n && difference[least] == 0.0) {
        least++;
    }
    const double step = least < n ? difference[least] : 0.0,
                 median = n > 0 ? gsl_stats_median_from_sorted_data(difference, 1, n) : 0.0;
    return (rgp_noise){fmax(1.4826 * median / sqrt(2.0), step / sqrt(12.0)), step};
}
