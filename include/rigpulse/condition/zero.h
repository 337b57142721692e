/* zero (offset calibration, tare): learns the reading of a sensor at rest, and takes it off.
 *
 * After the warm-up it watches a window. When in it the spread (standard deviation) and the drift (change of the mean
 * from its first half to its second) are both within what counts as still, the mean is the offset; else it tries again
 * with the next window. After so many tries it gives up and stays bad. Until it has learned the quality is "still
 * learning". A bad reading begins the window anew. Mean and spread are computed by Welford's recurrence (Welford,
 * 1962). */
#ifndef RIGPULSE_CONDITION_ZERO_H
#define RIGPULSE_CONDITION_ZERO_H

#include "rigpulse/block.h"
#include "rigpulse/retained.h"
#include "rigpulse/learning.h"

RGP_DECLARATIONS_BEGIN

typedef enum rgp_zero_phase { RGP_ZERO_WARMING, RGP_ZERO_WATCHING, RGP_ZERO_LEARNED, RGP_ZERO_GAVE_UP } rgp_zero_phase;

/* The settings: the caller's, and only read. */
typedef struct rgp_zero_config {
    float window;   /* seconds; above 0, at most 1e6 */
    float spread;   /* input unit; the most that counts as still; above 0 */
    float drift;    /* input unit; likewise; above 0 */
    float warmup;   /* seconds; 0 to 1e6 */
    uint32_t tries; /* 1 to 1000 */
} rgp_zero_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_zero_state {
    uint64_t elapsed_us;  /* in this phase */
    uint32_t phase;       /* rgp_zero_phase */
    uint32_t tries;       /* windows that were not still */
    uint32_t count;       /* readings in this window */
    float mean, squares;  /* of the readings in this window, and the sum of squared deviations from it */
    float first;          /* mean of the window's first half */
    uint32_t first_count; /* readings in that half */
    float offset;         /* learned */
    float noise;          /* spread of the last window */
    float moved;          /* drift in the last window */
    float error;          /* standard error of the offset */
    uint32_t news;        /* 1: it has learned or given up, and nobody has asked yet */
    int32_t base; /* of whole numbers: all but `elapsed_us`, `phase` and the counts is less that; a multiple of 256 */
    uint32_t reserved; /* 0 */
} rgp_zero_state;

/* RGP_E_CONFIG when a number is not finite or outside what is said above. Else RGP_OK. Only the settings are looked at.
 */
rgp_status rgp_zero_check(const rgp_zero_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_zero_fault(const rgp_zero_config *config);

/* Forgets everything: zeroing begins anew with the next reading. May be called while running. Memory of zeroes is the
 * same. */
void rgp_zero_reset(rgp_zero_state *state);

/* The part that survives a power cycle: the offset; false when there is nothing yet. And taken up again; false when it
 * cannot be so. */
bool rgp_zero_retain(const rgp_zero_state *state, rgp_retained *kept);
bool rgp_zero_restore(rgp_zero_state *state, const rgp_retained *kept);

/* The news since it was asked last; the value is the offset, of giving up how far the mean moved. */
rgp_learning rgp_zero_news(rgp_zero_state *state);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_zero_step(const rgp_zero_config *config, rgp_zero_state *state, rgp_reading in, float dt);

/* The same of a whole number that a float may not hold: what is learned is learned of its difference to one that is
 * near, and the result is the float nearest to the exact one. */
rgp_reading rgp_zero_whole(const rgp_zero_config *config, rgp_zero_state *state, int32_t raw, rgp_quality quality,
                           float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/zero.h"

#endif
