/* still: whether a quantity has stayed where it is for a time.
 *
 * It counts as moving when it leaves, by more than `within`, the value that it had when it last moved. On a bad reading
 * the time does not go on, and the last answer stands with the bad quality. */
#ifndef RIGPULSE_DETECT_STILL_H
#define RIGPULSE_DETECT_STILL_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

#define RP_STILL_TIME_MAX 1e6f

typedef struct rp_still_config {
    float time;   /* seconds; above 0, up to RP_STILL_TIME_MAX */
    float within; /* in the quantity's unit; 0 or more */
} rp_still_config;

typedef struct rp_still_state {
    uint64_t since_us;
    float at;
    uint32_t known;
} rp_still_state;

/* RP_E_CONFIG when a number is outside its range. */
rp_status rp_still_check(const rp_still_config *config);

void rp_still_reset(rp_still_state *state);

/* 1 for true, 0 for false. dt in seconds; dt = 0 steps no state. */
static inline rp_reading rp_still_step(const rp_still_config *config, rp_still_state *state, rp_reading in, float dt)
{
    if (rp_usable(in.quality) && dt > 0.0f) {
        const float away = in.value - state->at;
        if (!state->known || away > config->within || away < -config->within) {
            state->known = 1;
            state->at = in.value;
            state->since_us = 0;
        } else {
            state->since_us += rp_microseconds(dt);
        }
    }
    const bool is = state->known && state->since_us >= rp_microseconds(config->time);
    return (rp_reading){is ? 1.0f : 0.0f, in.quality};
}

#endif
