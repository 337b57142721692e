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
    uint64_t away_us; /* since the last usable reading */
    float value;
    uint32_t known; /* 1: the value may still be held */
} rp_hold_state;

/* RP_E_CONFIG unless the time is above 0 and at most 1e6 s. */
rp_status rp_hold_check(const rp_hold_config *config);

void rp_hold_reset(rp_hold_state *state);

/* The part of a step for a bad reading. */
rp_reading rp_hold_bridge(const rp_hold_config *config, rp_hold_state *state, rp_reading in, float dt);

/* dt in seconds; dt = 0 steps no state. */
static inline rp_reading rp_hold_step(const rp_hold_config *config, rp_hold_state *state, rp_reading in, float dt)
{
    if (!rp_usable(in.quality)) {
        return rp_hold_bridge(config, state, in, dt);
    }
    state->value = in.value;
    state->away_us = 0;
    state->known = 1;
    return in;
}

#endif
