/* A moving window of time in pieces, of each of which the extreme reading is kept: rgp_highest and rgp_lowest are made
 * of it. */
#ifndef RIGPULSE_CONDITION_WINDOW_H
#define RIGPULSE_CONDITION_WINDOW_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_WINDOW_PIECES 16u /* of a window; one more is under way */

/* The state: the caller's memory, zeroed before the first step; to be read, not written. */
typedef struct rgp_window_state {
    uint64_t in_us;                        /* of the piece that is under way */
    uint64_t gap_us;                       /* without a usable reading */
    float extreme[RGP_WINDOW_PIECES + 1u]; /* of each piece */
    float output;                          /* the extreme of all of them */
    uint32_t at;                           /* the piece that is under way */
    uint32_t known;                        /* 1: there was a usable reading */
} rgp_window_state;

/* `time` in seconds, above 0; `sign` 1 for the greatest, -1 for the least. dt in seconds; dt = 0 steps no state. */
rgp_reading rgp_window_step(rgp_window_state *state, float time, rgp_reading in, float dt, float sign);

RGP_DECLARATIONS_END

#endif
