/* unwrap (phase unwrapping): a reading that jumps back after each turn becomes one that goes on. A change of more than
 * half a turn from one usable reading to the next counts as a crossing of the seam.
 *
 * In a gap it may have turned on unseen: by half a turn and more when it can be `fastest` and the gap was long enough
 * for that, or, where that is not known, when more than three readings were bad. How often it has gone round is not
 * known then: it stays bad, with the quality that the gap had, until it is reset, or with `anyway` goes on, as held. */
#ifndef RIGPULSE_CONDITION_UNWRAP_H
#define RIGPULSE_CONDITION_UNWRAP_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_unwrap_config {
    float turn;      /* input unit; above 0 */
    float fastest;   /* input unit a second; 0: not known */
    uint32_t anyway; /* 1: after such a gap it goes on, as held */
} rgp_unwrap_config;

typedef struct rgp_unwrap_state {
    uint64_t gap_us; /* since the last usable reading */
    float last;
    int32_t whole; /* likewise, of whole numbers */
    int32_t turns;
    uint8_t known;
    uint8_t missed;   /* bad readings in a row, up to 4 */
    rgp_quality gap;  /* of the last bad one */
    rgp_quality lost; /* of the gap behind which it is not known; RGP_GOOD: it is */
} rgp_unwrap_state;

#define RGP_UNWRAP_MISSED_MAX 3u

/* RGP_E_CONFIG when the turn is not finite or not above 0, or `fastest` not finite or below 0. */
rgp_status rgp_unwrap_check(const rgp_unwrap_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_unwrap_fault(const rgp_unwrap_config *config);

void rgp_unwrap_reset(rgp_unwrap_state *state);

/* The part of a step for a bad reading, and with the first usable one behind it. */
void rgp_unwrap_miss(rgp_unwrap_state *state, rgp_quality quality, float dt);
void rgp_unwrap_resume(const rgp_unwrap_config *config, rgp_unwrap_state *state, float dt);

/* The part of a step for a usable reading: the seams that it has crossed since the last one, by its change. */
static inline void rgp_unwrap_cross(const rgp_unwrap_config *config, rgp_unwrap_state *state, float change, float dt)
{
    const float half = 0.5f * config->turn;
    if (state->missed > 0) {
        rgp_unwrap_resume(config, state, dt);
    }
    if (state->known && change > half && state->turns > INT32_MIN) {
        state->turns--;
    } else if (state->known && change < -half && state->turns < INT32_MAX) {
        state->turns++;
    }
    state->known = 1;
}

/* dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_unwrap_step(const rgp_unwrap_config *config, rgp_unwrap_state *state, rgp_reading in,
                                          float dt)
{
    if (!rgp_usable(in.quality)) {
        rgp_unwrap_miss(state, in.quality, dt);
    } else if (dt > 0.0f) {
        rgp_unwrap_cross(config, state, in.value - state->last, dt);
        state->last = in.value;
    }
    const float from = state->known ? state->last : in.value;
    return rgp_number(from + (float)state->turns * config->turn, rgp_worst(in.quality, state->lost));
}

/* The same of a whole number that a float may not hold: the result is the float nearest to the exact one. */
rgp_reading rgp_unwrap_whole(const rgp_unwrap_config *config, rgp_unwrap_state *state, int32_t raw, rgp_quality quality,
                             float dt);

RGP_DECLARATIONS_END

#endif
