/* unwrap (phase unwrapping): a reading that jumps back after each turn becomes one that goes on. A change of more than
 * half a turn from one usable reading to the next counts as a crossing of the seam.
 *
 * In a gap it may have turned on unseen: by half a turn and more when it can be `fastest` and the gap was long enough
 * for that, or, where that is not known, when more than three readings were bad. How often it has gone round is not
 * known then: it stays bad, with the quality that the gap had, until it is reset, or with `anyway` goes on, as held. */
#ifndef RIGPULSE_CONDITION_UNWRAP_H
#define RIGPULSE_CONDITION_UNWRAP_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_unwrap_config {
    float turn;      /* input unit; above 0 */
    float fastest;   /* input unit a second; 0: not known */
    uint32_t anyway; /* 1: after such a gap it goes on, as held */
} rgp_unwrap_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_unwrap_state {
    uint64_t gap_us;  /* since the last usable reading */
    float last;       /* usable reading */
    int32_t whole;    /* likewise, of whole numbers */
    int32_t turns;    /* since the first reading; it stands still at the ends of its type */
    uint8_t known;    /* 1: there was a usable reading */
    uint8_t missed;   /* bad readings in a row, up to 4 */
    rgp_quality gap;  /* of the last bad one */
    rgp_quality lost; /* of the gap behind which it is not known; RGP_GOOD: it is */
} rgp_unwrap_state;

#define RGP_UNWRAP_MISSED_MAX                                                               \
    3u /* bad readings in a row behind which the turns are still known where `fastest` is 0 \
        */

/* RGP_E_CONFIG when the turn is not finite or not above 0, or `fastest` not finite or below 0. RGP_OK when they are
 * sound. Only the settings are looked at. */
rgp_status rgp_unwrap_check(const rgp_unwrap_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_unwrap_fault(const rgp_unwrap_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_unwrap_reset(rgp_unwrap_state *state);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_unwrap_step(const rgp_unwrap_config *config, rgp_unwrap_state *state, rgp_reading in,
                                          float dt);

/* The same of a whole number that a float may not hold: the result is the float nearest to the exact one. */
rgp_reading rgp_unwrap_whole(const rgp_unwrap_config *config, rgp_unwrap_state *state, int32_t raw, rgp_quality quality,
                             float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/unwrap.h"

#endif
