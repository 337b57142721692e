/* Single readings that are far from those around them: no model is to follow them. */
#include "spikes.h"

#include "noise.h"

#include <gsl/gsl_sort.h>

#include <glib.h>
#include <math.h>
#include <stdbool.h>
#include <string.h>

#define BESIDE     3u  /* readings to either side that one is compared with: as many spikes in a row are found */
#define FAR_NOISES 8.0 /* from the median of its neighbourhood */
#define FAR_STEPS  3.0 /* of the sensor: rounding makes no spike */
#define FAR_HALVES 3.0 /* times the range of half the neighbourhood */
#define SHARE_MOST 0.1 /* of the readings: what comes more often is no spike */

/* Half of a neighbourhood is at least as far from a reading as its median is. */
static bool most_are_far(const double *around, size_t count, double from, double far)
{
    size_t are = 0;
    for (size_t i = 0; i < count; i++) {
        are += fabs(around[i] - from) > far;
    }
    return 2 * are > count;
}

/* Hampel's identifier (1974): the distance of each reading from the median of itself and those around it counts, where
 * it is far beyond the shortest range that holds half of them (Rousseeuw and Leroy 1988): a quick movement is no spike.
 */
static double distance_at(const double *reading, size_t count, size_t at, double far)
{
    const size_t beside = MIN(BESIDE, MIN(at, count - 1 - at)), n = 2 * beside + 1;
    double around[2 * BESIDE + 1], half = INFINITY;
    if (!most_are_far(&reading[at - beside], n, reading[at], far)) {
        return 0.0;
    }
    memcpy(around, &reading[at - beside], n * sizeof *around);
    gsl_sort(around, 1, n);
    for (size_t i = 0; i + beside < n; i++) {
        half = fmin(half, around[i + beside] - around[i]);
    }
    const double distance = fabs(reading[at] - around[beside]);
    return distance > FAR_HALVES * half ? distance : 0.0;
}

size_t rgp_spikes_out(const double *measured, size_t count, double *without)
{
    g_autofree double *reading = g_malloc_n(count + 1, sizeof *reading);
    g_autofree size_t *row = g_malloc_n(count + 1, sizeof *row);
    size_t readings = 0, spikes = 0;
    for (size_t k = 0; k < count; k++) {
        without[k] = measured[k];
        if (!isnan(measured[k])) {
            reading[readings] = measured[k];
            row[readings++] = k;
        }
    }
    const rgp_noise noise = rgp_noise_of(reading, readings);
    const double far = fmax(FAR_NOISES * noise.sigma, FAR_STEPS * noise.step);
    for (size_t i = 0; i < readings; i++) {
        if (distance_at(reading, readings, i, far) > far) {
            without[row[i]] = (double)NAN;
            spikes++;
        }
    }
    if ((double)spikes <= SHARE_MOST * (double)readings) {
        return spikes;
    }
    for (size_t i = 0; i < readings; i++) {
        without[row[i]] = reading[i];
    }
    return 0;
}
