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

#endif
