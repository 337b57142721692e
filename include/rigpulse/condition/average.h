/* average (moving average): the mean of the last N readings. Before N have come, of those there are. A bad reading is
 * passed on as bad with the last mean, and does not enter; after as many in a row as the window is long, what was in it
 * is forgotten. The sum is made anew each time the window has gone round once, so that rounding does not pile up. */
#ifndef RIGPULSE_CONDITION_AVERAGE_H
#define RIGPULSE_CONDITION_AVERAGE_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_AVERAGE_WINDOW_MAX 64 /* readings */

/* The settings: the caller's, and only read. */
typedef struct rgp_average_config {
    uint32_t window; /* readings; 2 to 64 */
} rgp_average_config;

/* Only the first `window` places of kept[] are touched: RGP_AVERAGE_BYTES(window) bytes are enough. */
typedef struct rgp_average_state {
    uint8_t filled, next;               /* readings in it; the place of the next one */
    uint8_t missed;                     /* bad readings in a row */
    uint8_t reserved;                   /* 0 */
    float sum;                          /* of those in it */
    float kept[RGP_AVERAGE_WINDOW_MAX]; /* the readings as they came, a ring */
} rgp_average_state;

#define RGP_AVERAGE_BYTES(window) (8u + 4u * (window)) /* of a state with that window */

/* RGP_E_CONFIG when the window is not within 2 to 64. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_average_check(const rgp_average_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_average_fault(const rgp_average_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_average_reset(rgp_average_state *state);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant, but for `window` additions each time that it has gone round. Memory: that of its arguments alone.
 * Threads: one at a time for each state. */
static inline rgp_reading rgp_average_step(const rgp_average_config *config, rgp_average_state *state, rgp_reading in,
                                           float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/average.h"

#endif
