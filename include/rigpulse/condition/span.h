/* span (self-learned range): learns the least and the greatest during a practice time, and maps what is between them to
 * 0..100 %.
 *
 * What counts is the median of each three readings in a row, so that a single reading that is far off does not. Until
 * the practice is over the quality is "still learning". After it the output is clamped to 0..100 %. When nothing has
 * moved by at least `least_span` it stays "still learning", and the practice begins anew. */
#ifndef RIGPULSE_CONDITION_SPAN_H
#define RIGPULSE_CONDITION_SPAN_H

#include "rigpulse/block.h"
#include "rigpulse/retained.h"
#include "rigpulse/learning.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_span_config {
    float time;       /* of practice, seconds; above 0, at most 1e6 */
    float least_span; /* input unit; above 0 */
    uint32_t falling; /* 1: the greatest input is 0 % */
} rgp_span_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_span_state {
    uint64_t practised_us; /* since the first reading */
    float low, high;       /* so far, in the input unit */
    float before[2];       /* the last two usable readings, the newest last */
    uint8_t seen;          /* readings so far, up to 3 */
    uint8_t known;         /* low and high hold something */
    uint8_t learned;       /* 1: the span is what low and high say */
    uint8_t news;          /* 1: a practice is over, and nobody has asked yet */
    float width;           /* from the least to the greatest of the last practice */
} rgp_span_state;

/* RGP_E_CONFIG when a number is not finite or outside what is said above. Else RGP_OK. Only the settings are looked at.
 */
rgp_status rgp_span_check(const rgp_span_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_span_fault(const rgp_span_config *config);

/* Begins the practice anew. May be called while running. Memory of zeroes is the same. */
void rgp_span_reset(rgp_span_state *state);

/* The part that survives a power cycle: the least and the greatest; false when there is nothing yet. And taken up
 * again; false when it cannot be so. */
bool rgp_span_retain(const rgp_span_state *state, rgp_retained *kept);
bool rgp_span_restore(rgp_span_state *state, const rgp_retained *kept);

/* The news since it was asked last; the value is the width of the last practice. */
rgp_learning rgp_span_news(rgp_span_state *state);

/* Percent. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_span_step(const rgp_span_config *config, rgp_span_state *state, rgp_reading in, float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/span.h"

#endif
