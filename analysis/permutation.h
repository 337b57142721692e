/* Tests of whether runs of one kind differ from runs of another by more than they differ among themselves. They count
 * all the ways in which the same numbers could have fallen. A run is one number; nothing is assumed of how such numbers
 * are spread. Where there are too many ways, 20 000 are drawn, always the same. */
#ifndef ANALYSIS_PERMUTATION_H
#define ANALYSIS_PERMUTATION_H

#include <stdbool.h>
#include <stdint.h>

#define RGP_PAIRS_LEAST 6u /* of runs on the same seeds: with fewer even the clearest difference could be chance */
#define RGP_RUNS_LEAST  4u /* of each kind, where they are not in pairs */

typedef struct rgp_difference {
    bool judged;      /* there were enough runs */
    double mean;      /* of the second kind less that of the first */
    double low, high; /* its interval for 19 of 20, by inverting the test: the differences that it would not reject */
    double chance;    /* of a difference as great where there is none; 1 where nothing differs */
} rgp_difference;

/* Pairs on the same seeds: `difference` has one of them each. By flipping signs (Fisher 1935), all 2^n of them up to
 * n = 14. */
rgp_difference rgp_paired(const double *difference, uint32_t pairs);

/* Runs that have nothing in common: by sharing them out anew, of the difference of means over its standard error (Welch
 * 1947; Janssen 1997), so that one kind may scatter more than the other. */
rgp_difference rgp_unpaired(const double *first, uint32_t firsts, const double *second, uint32_t seconds);

/* The least chance that so many pairs, or so many runs of each kind, can give. */
double rgp_paired_least(uint32_t pairs);
double rgp_unpaired_least(uint32_t runs);

/* Makes chances of several questions such that among all of them together a false answer is as rare as it would be for
 * one (Holm 1979). In place; those that are NAN are no questions. */
void rgp_holm(double *chance, uint32_t count);

#endif
