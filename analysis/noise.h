/* The noise of one reading, by how values differ from those that follow them. */
#ifndef ANALYSIS_NOISE_H
#define ANALYSIS_NOISE_H

#include <stddef.h>

typedef struct rgp_noise {
    double sigma; /* standard deviation: 1.4826 median |difference| / sqrt 2 (Hampel 1974), at least that of rounding to
                     `step`, step / sqrt 12 */
    double step;  /* the least difference that is not 0; 0: all values are one */
} rgp_noise;

/* Values in order; NAN ends a stretch, and no difference reaches over it. A sensor that is slower than the tick repeats
 * each reading, which says nothing about noise: differences are of values as far apart as values stand on average until
 * another one comes. Of independent noise they are as large at that distance as at any other. */
rgp_noise rgp_noise_of(const double *value, size_t count);

/* The same of rows in which NAN is no reading, as of a sensor that is slower than the tick: what follows one another is
 * the readings. */
rgp_noise rgp_noise_of_readings(const double *value, size_t count);

/* Noise that hangs together: n[k+1] = hold n[k] + sqrt(1 - hold^2) times noise of its own. */
typedef struct rgp_coloured {
    double sigma; /* standard deviation of n */
    double hold;  /* 0: white, to 0.999 */
} rgp_coloured;

/* By the variogram (Matheron 1963): what differs at a distance of 1, 2, 4 and up to 64 values grows until noise has
 * forgotten itself, and what it has grown to is twice its variance; the share of that at distance 1 is 1 - hold. By the
 * ninth deciles of differences (of a normal distribution, 1.645 standard deviations), so that spikes do not count.
 * Values around 0, such as residuals; what moves more slowly than that is no part of it. */
rgp_coloured rgp_noise_coloured(const double *value, size_t count);

#endif
