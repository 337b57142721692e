/* span: learns the least and the greatest during a practice time, and maps what is between them to 0..100 %.
 *
 * What counts is the median of each three readings in a row, so that a single reading that is far off does not. Until
 * the practice is over the quality is "still learning". After it the output is clamped to 0..100 %. When nothing has
 * moved by at least `least_span` it stays "still learning", and the practice begins anew. */
#ifndef RIGPULSE_CONDITION_SPAN_H
#define RIGPULSE_CONDITION_SPAN_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/kept.h"
#include "rigpulse/learning.h"
#include "rigpulse/status.h"

typedef struct rp_span_config {
    float time;       /* of practice, seconds; above 0 */
    float least_span; /* input unit; above 0 */
    uint32_t falling; /* 1: the greatest input is 0 % */
} rp_span_config;

typedef struct rp_span_state {
    uint64_t practised_us; /* since the first reading */
    float low, high;
    float before[2];
    uint8_t seen;  /* readings so far, up to 3 */
    uint8_t known; /* low and high hold something */
    uint8_t learned;
    uint8_t news; /* 1: a practice is over, and nobody has asked yet */
    float width;  /* from the least to the greatest of the last practice */
} rp_span_state;

/* RP_E_CONFIG when a number is not finite or outside what is said above. */
rp_status rp_span_check(const rp_span_config *config);

/* Begins the practice anew. May be called while running. */
void rp_span_reset(rp_span_state *state);

/* The part that survives a power cycle: the least and the greatest; false when there is nothing yet. And taken up
 * again; false when it cannot be so. */
bool rp_span_keep(const rp_span_state *state, rp_kept *kept);
bool rp_span_recall(rp_span_state *state, const rp_kept *kept);

/* The news since it was asked last; the value is the width of the last practice. */
rp_learning rp_span_news(rp_span_state *state);

/* The part of a step during the practice. */
void rp_span_learn(const rp_span_config *config, rp_span_state *state, float value, float dt);

/* Percent. dt in seconds; dt = 0 steps no state. */
static inline rp_reading rp_span_step(const rp_span_config *config, rp_span_state *state, rp_reading in, float dt)
{
    if (!state->learned && rp_usable(in.quality) && dt > 0.0f) {
        rp_span_learn(config, state, in.value, dt);
    }
    if (!state->learned) {
        return (rp_reading){0.0f, rp_worst(in.quality, RP_LEARNING)};
    }
    float share = (in.value - state->low) / (state->high - state->low);
    share = share < 0.0f ? 0.0f : share > 1.0f ? 1.0f : share;
    return (rp_reading){100.0f * (config->falling ? 1.0f - share : share), in.quality};
}

#endif
