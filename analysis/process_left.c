/* Looks at what a model leaves over: whether it still follows what was driven. */
#include "process_parts.h"

#include <math.h>

#define DISTANCES 20u /* that are looked at, up to twice the sum of lag and dead time */
#define REACH     2.0
#define UNLIKELY  3.5  /* standard deviations: one in a hundred models that miss nothing, over all distances */
#define SHARE     0.05 /* of what is left over: less of it is not told */
#define MEMORY    4u   /* of the rows, as a part: correlations farther apart are not looked at */

static void about_mean(double *value, size_t count)
{
    double sum = 0.0, n = 0.0;
    for (size_t k = 0; k < count; k++) {
        sum += isnan(value[k]) ? 0.0 : value[k];
        n += isnan(value[k]) ? 0.0 : 1.0;
    }
    for (size_t k = 0; k < count; k++) {
        value[k] = isnan(value[k]) ? 0.0 : value[k] - sum / fmax(n, 1.0);
    }
}

static double correlation(const double *a, const double *b, size_t count, size_t later)
{
    double ab = 0.0, aa = 0.0, bb = 0.0;
    for (size_t k = 0; k < count; k++) {
        aa += a[k] * a[k];
        bb += b[k] * b[k];
        ab += k >= later ? a[k] * b[k - later] : 0.0;
    }
    return aa > 0.0 && bb > 0.0 ? ab / sqrt(aa * bb) : 0.0;
}

/* Of a correlation of two that have nothing to do with one another, but each with itself (Bartlett 1946). */
static double deviation_of(const double *a, const double *b, size_t count)
{
    double sum = 1.0;
    for (size_t k = 1; k < count / MEMORY; k++) {
        sum += 2.0 * correlation(a, a, count, k) * correlation(b, b, count, k);
    }
    return sqrt(fmax(sum, 1.0) / (double)count);
}

bool process_left_follows(const rgp_process_data *d, const double *fitted, double memory, double *later)
{
    g_autofree double *left = g_new(double, d->count + 1), *driven = g_memdup2(d->driven, d->count * sizeof(double));
    const size_t apart = (size_t)fmin(fmax(1.0, REACH * memory / d->tick / DISTANCES), (double)d->count);
    for (size_t k = 0; k < d->count; k++) {
        left[k] = d->measured[k] - fitted[k];
    }
    about_mean(left, d->count);
    about_mean(driven, d->count);
    double most = 0.0;
    for (size_t i = 0; i < DISTANCES && i * apart < d->count / 2; i++) {
        const double is = fabs(correlation(left, driven, d->count, i * apart));
        *later = is > most ? (double)(i * apart) * d->tick : *later;
        most = fmax(most, is);
    }
    return most * most > SHARE && most > UNLIKELY * deviation_of(left, driven, d->count);
}
