/* despike (running median): the median of the last N readings. A disturbance of at most (N-1)/2 readings leaves no
 * trace; a lasting step comes through after (N+1)/2 readings.
 *
 * Before N readings have come, the median of those there are (the lower of the two middle ones when
 * their number is even), so the first reading passes as it is. A bad reading is passed on as bad, with
 * the last median as its number, and does not enter the window; after as many in a row as the window is long, what was
 * in it is forgotten, so that nothing old comes through when readings come again. */
#ifndef RIGPULSE_CONDITION_DESPIKE_H
#define RIGPULSE_CONDITION_DESPIKE_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_DESPIKE_WINDOW_MAX 31 /* readings */

/* The settings: the caller's, and only read. */
typedef struct rgp_despike_config {
    uint32_t window; /* readings; odd, 3 to 31 */
} rgp_despike_config;

/* The first `filled` of kept[] are the readings as they came, a ring. Of windows above RGP_DESPIKE_SMALL the same
 * readings stand in rising order from kept[window]; the median of smaller ones is found by exchanges. No other places
 * are touched, so whoever is short of memory may place just RGP_DESPIKE_BYTES(window) bytes, aligned like a float. */
typedef struct rgp_despike_state {
    uint8_t filled;                         /* readings in it */
    uint8_t next;                           /* the place of the next one, which is the oldest of a full window */
    uint8_t missed;                         /* bad readings in a row */
    uint8_t reserved;                       /* 0 */
    float kept[2 * RGP_DESPIKE_WINDOW_MAX]; /* the ring, and behind it the rising order */
} rgp_despike_state;

#define RGP_DESPIKE_SMALL         5u /* readings: the largest window without a rising order */
#define RGP_DESPIKE_BYTES(window) (4u + ((window) > RGP_DESPIKE_SMALL ? 8u : 4u) * (window))

/* RGP_E_CONFIG when the window is even or not within 3 to 31. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_despike_check(const rgp_despike_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_despike_fault(const rgp_despike_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_despike_reset(rgp_despike_state *state);

/* dt in seconds; dt = 0 (the same moment again) steps no state. Bounded: at most 2 window moves.
 *
 * Time: constant for windows of 3 and 5, else at most 2 * window moves. Memory: that of its arguments alone. Threads:
 * one at a time for each state. */
static inline rgp_reading rgp_despike_step(const rgp_despike_config *config, rgp_despike_state *state, rgp_reading in,
                                           float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/despike.h"

#endif
