/* Promises from counts: rates and shares with their intervals, and whether what was counted comes in clumps. All
 * intervals are two-sided; `level` is the share of them that holds, 0.95 where nothing else is wanted. */
#ifndef ANALYSIS_COUNTS_H
#define ANALYSIS_COUNTS_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

typedef struct rgp_interval {
    double low, high;
} rgp_interval;

/* The rate of what was seen `count` times in `exposure`, exact for a Poisson process (Garwood 1936). A count need not
 * be whole: one that is widened by a dispersion is divided by it, as its exposure is. */
rgp_interval rgp_rate_interval(double count, double exposure, double level);

/* The share of what was seen k times of n, exact for independent trials (Clopper and Pearson 1934). */
rgp_interval rgp_share_interval(uint32_t k, uint32_t n, double level);

/* The exposure without one that has to be seen to promise at most `rate`. */
double rgp_exposure_for(double rate, double level);

/* The times at which something was seen, in seconds, sorted, within a length of time. */
typedef struct rgp_sightings {
    const double *at;
    size_t count;
    double length;
} rgp_sightings;

/* The variance of counts in blocks over their mean, the greatest over lengths of 30 s to 8 min of which there are at
 * least six; at least 1, which a Poisson process has. */
double rgp_dispersion(const rgp_sightings *seen);

/* The number of clumps that the sightings form, by the extremal index from the times between them (Ferro and Segers
 * 2003); `tick` is the least time that is told apart, in seconds. */
uint32_t rgp_clumps(const rgp_sightings *seen, double tick);

#endif
