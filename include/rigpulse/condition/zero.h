/* zero: learns what a sensor says while it is at rest, and takes it off.
 *
 * After the warm-up it watches a window. When in it the spread (standard deviation) and the drift (change of the mean
 * from its first half to its second) are both within what counts as still, the mean is the offset; else it tries again
 * with the next window. After so many tries it gives up and stays bad. Until it has learned the quality is "still
 * learning". A bad reading begins the window anew. Mean and spread are computed by Welford's recurrence (Welford,
 * 1962). */
#ifndef RIGPULSE_CONDITION_ZERO_H
#define RIGPULSE_CONDITION_ZERO_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/kept.h"
#include "rigpulse/learning.h"
#include "rigpulse/status.h"

typedef enum rp_zero_phase { RP_ZERO_WARMING, RP_ZERO_WATCHING, RP_ZERO_LEARNED, RP_ZERO_GAVE_UP } rp_zero_phase;

typedef struct rp_zero_config {
    float window;   /* seconds; above 0 */
    float spread;   /* input unit; the most that counts as still; above 0 */
    float drift;    /* input unit; likewise; above 0 */
    float warmup;   /* seconds; 0 or more */
    uint32_t tries; /* 1 to 1000 */
} rp_zero_config;

typedef struct rp_zero_state {
    uint64_t elapsed_us; /* in this phase */
    uint32_t phase;      /* rp_zero_phase */
    uint32_t tries;      /* windows that were not still */
    uint32_t count;      /* readings in this window */
    float mean, squares;
    float first; /* mean of the window's first half */
    uint32_t first_count;
    float offset;  /* learned */
    float noise;   /* spread of the last window */
    float moved;   /* drift in the last window */
    float error;   /* standard error of the offset */
    uint32_t news; /* 1: it has learned or given up, and nobody has asked yet */
    int32_t base;  /* of whole numbers: all but `elapsed_us`, `phase` and the counts is less that; a multiple of 256 */
} rp_zero_state;

/* RP_E_CONFIG when a number is not finite or outside what is said above. */
rp_status rp_zero_check(const rp_zero_config *config);

/* Forgets everything: zeroing begins anew with the next reading. May be called while running. */
void rp_zero_reset(rp_zero_state *state);

/* The part that survives a power cycle: the offset; false when there is nothing yet. And taken up again; false when it
 * cannot be so. */
bool rp_zero_keep(const rp_zero_state *state, rp_kept *kept);
bool rp_zero_recall(rp_zero_state *state, const rp_kept *kept);

/* The news since it was asked last; the value is the offset, of giving up how far the mean moved. */
rp_learning rp_zero_news(rp_zero_state *state);

/* The part of a step before the offset is known. */
void rp_zero_learn(const rp_zero_config *config, rp_zero_state *state, float value, rp_quality quality, float dt);

/* dt in seconds; dt = 0 steps no state. */
static inline rp_reading rp_zero_step(const rp_zero_config *config, rp_zero_state *state, rp_reading in, float dt)
{
    if (state->phase != RP_ZERO_LEARNED) {
        rp_zero_learn(config, state, in.value, in.quality, dt);
        if (state->phase != RP_ZERO_LEARNED) {
            return (rp_reading){in.value, rp_worst(in.quality, RP_LEARNING)};
        }
    }
    return (rp_reading){in.value - (float)state->base - state->offset, in.quality};
}

/* The same of a whole number that a float may not hold: what is learned is learned of its difference to one that is
 * near, and the result is the float nearest to the exact one. */
rp_reading rp_zero_whole(const rp_zero_config *config, rp_zero_state *state, int32_t raw, rp_quality quality, float dt);

#endif
