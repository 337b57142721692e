/* hold: bridges bad readings. For the given time after the last usable one its value stands, as held; then the bad
 * quality comes through. Nothing is held before a first usable reading. */
#ifndef RIGPULSE_CONDITION_HOLD_H
#define RIGPULSE_CONDITION_HOLD_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_hold_config {
    float time; /* seconds; above 0, at most 1e6 */
} rp_hold_config;

typedef struct rp_hold_state {
    uint64_t left_us; /* that it may still be held */
    float value;
} rp_hold_state;

/* RP_E_CONFIG unless the time is above 0 and at most 1e6 s. */
rp_status rp_hold_check(const rp_hold_config *config);

void rp_hold_reset(rp_hold_state *state);

/* What a step does with a bad reading. */
rp_reading rp_hold_bridge(rp_hold_state *state, float value, rp_quality quality, float dt);

/* dt in seconds; dt = 0 steps no state. */
static inline rp_reading rp_hold_step(const rp_hold_config *config, rp_hold_state *state, rp_reading in, float dt)
{
    if (!rp_usable(in.quality)) {
        return rp_hold_bridge(state, in.value, in.quality, dt);
    }
    state->value = in.value;
    state->left_us = rp_microseconds(config->time);
    return in;
}

#endif
