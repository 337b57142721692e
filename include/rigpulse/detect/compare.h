/* compare (comparator with hysteresis): true while a quantity is above (or below) a limit, with a margin against
 * chatter.
 *
 * It becomes true exactly at its limit, and false again only when the quantity has come back past the
 * limit by the whole margin: "below 3, margin 0.4" is true under 3 and false from 3.4;
 * "above 9, margin 0.4" is true over 9 and false from 8.6. The first usable reading is judged by the
 * limit alone. On a bad reading the last answer stands, with the bad quality. */
#ifndef RIGPULSE_DETECT_COMPARE_H
#define RIGPULSE_DETECT_COMPARE_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

enum { RGP_COMPARE_BELOW = 0, RGP_COMPARE_ABOVE = 1 }; /* true under the limit; true over it */

/* The settings: the caller's, and only read. */
typedef struct rgp_compare_config {
    float limit;   /* in the quantity's unit */
    float margin;  /* in the quantity's unit; 0 or more */
    uint32_t side; /* RGP_COMPARE_BELOW or RGP_COMPARE_ABOVE */
} rgp_compare_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_compare_state {
    uint8_t is; /* 1: true */
} rgp_compare_state;

/* RGP_E_CONFIG when a number is not finite, the margin is negative, or the side is neither. Else RGP_OK. Only the
 * settings are looked at. */
rgp_status rgp_compare_check(const rgp_compare_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_compare_fault(const rgp_compare_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_compare_reset(rgp_compare_state *state);

/* 1 for true, 0 for false. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_compare_step(const rgp_compare_config *config, rgp_compare_state *state, rgp_reading in,
                                           float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/detect/compare.h"

#endif
