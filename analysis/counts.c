/* Intervals of counts, and whether they come in clumps. */
#include "counts.h"

#include <gsl/gsl_cdf.h>

#include <glib.h>
#include <math.h>

#define HALVINGS 100

/* The place at which a distribution reaches `chance`, by halving: the library's own inverses give up on some counts. */
static double gamma_at(double chance, double shape)
{
    double low = 0.0, high = 1.0;
    while (gsl_cdf_gamma_P(high, shape, 1.0) < chance) {
        high *= 2.0;
    }
    for (int i = 0; i < HALVINGS; i++) {
        const double middle = low + (high - low) / 2.0;
        *(gsl_cdf_gamma_P(middle, shape, 1.0) < chance ? &low : &high) = middle;
    }
    return high;
}

static double beta_at(double chance, double a, double b)
{
    double low = 0.0, high = 1.0;
    for (int i = 0; i < HALVINGS; i++) {
        const double middle = low + (high - low) / 2.0;
        *(gsl_cdf_beta_P(middle, a, b) < chance ? &low : &high) = middle;
    }
    return high;
}

rgp_interval rgp_rate_interval(double count, double exposure, double level)
{
    const double tail = (1.0 - level) / 2.0;
    const double low = count > 0.0 ? gamma_at(tail, count) : 0.0, high = gamma_at(1.0 - tail, count + 1.0);
    return exposure > 0.0 ? (rgp_interval){low / exposure, high / exposure} : (rgp_interval){0.0, (double)INFINITY};
}

rgp_interval rgp_share_interval(uint32_t k, uint32_t n, double level)
{
    const double tail = (1.0 - level) / 2.0, seen = k, missed = (double)n - k;
    if (n == 0) {
        return (rgp_interval){0.0, 1.0};
    }
    return (rgp_interval){k > 0 ? beta_at(tail, seen, missed + 1.0) : 0.0,
                          k < n ? beta_at(1.0 - tail, seen + 1.0, missed) : 1.0};
}

double rgp_exposure_for(double rate, double level)
{
    return rgp_rate_interval(0.0, 1.0, level).high / rate;
}

/* Variance over mean of the counts in whole blocks of that length; 0: too few of them. */
static double dispersion_in(const rgp_sightings *seen, double length)
{
    const size_t blocks = (size_t)floor(seen->length / length);
    if (blocks < 6) {
        return 0.0;
    }
    g_autofree double *in = g_new0(double, blocks);
    double mean = 0.0, square = 0.0;
    for (size_t i = 0; i < seen->count; i++) {
        const size_t block = (size_t)floor(seen->at[i] / length);
        if (block < blocks) {
            in[block] += 1.0;
            mean += 1.0 / (double)blocks;
        }
    }
    for (size_t i = 0; i < blocks; i++) {
        square += (in[i] - mean) * (in[i] - mean);
    }
    return mean > 0.0 ? square / (double)(blocks - 1) / mean : 0.0;
}

double rgp_dispersion(const rgp_sightings *seen)
{
    static const double length[] = {30.0, 60.0, 120.0, 240.0, 480.0};
    double most = 1.0;
    for (size_t i = 0; i < G_N_ELEMENTS(length); i++) {
        most = fmax(most, dispersion_in(seen, length[i]));
    }
    return most;
}

uint32_t rgp_clumps(const rgp_sightings *seen, double tick)
{
    double sum = 0.0, square = 0.0, less = 0.0, less_square = 0.0, longest = 0.0;
    if (seen->count < 2) {
        return (uint32_t)seen->count;
    }
    for (size_t i = 1; i < seen->count; i++) {
        const double gap = fmax(1.0, (seen->at[i] - seen->at[i - 1]) / tick);
        longest = fmax(longest, gap);
        sum += gap;
        square += gap * gap;
        less += gap - 1.0;
        less_square += (gap - 1.0) * (gap - 2.0);
    }
    const double gaps = (double)(seen->count - 1);
    const double index = longest <= 2.0      ? 2.0 * sum * sum / (gaps * square)
                         : less_square > 0.0 ? 2.0 * less * less / (gaps * less_square)
                                             : 1.0;
    return 1 + (uint32_t)floor(fmin(1.0, index) * gaps);
}
