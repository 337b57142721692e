/* hold (hold last value): bridges bad readings. For the given time after the last usable one its value stands, as held;
 * then the bad quality comes through. Nothing is held before a first usable reading. */
#ifndef RIGPULSE_CONDITION_HOLD_H
#define RIGPULSE_CONDITION_HOLD_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_hold_config {
    float time; /* seconds; above 0, at most 1e6 */
} rgp_hold_config;

typedef struct rgp_hold_state {
    uint64_t away_us; /* since the last usable reading */
    float value;
    uint32_t known; /* 1: the value may still be held */
} rgp_hold_state;

/* RGP_E_CONFIG unless the time is above 0 and at most 1e6 s. */
rgp_status rgp_hold_check(const rgp_hold_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_hold_fault(const rgp_hold_config *config);

void rgp_hold_reset(rgp_hold_state *state);

/* The part of a step for a bad reading. */
rgp_reading rgp_hold_bridge(const rgp_hold_config *config, rgp_hold_state *state, rgp_reading in, float dt);

/* dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_hold_step(const rgp_hold_config *config, rgp_hold_state *state, rgp_reading in, float dt)
{
    if (!rgp_usable(in.quality)) {
        return rgp_hold_bridge(config, state, in, dt);
    }
    state->value = in.value;
    state->away_us = 0;
    state->known = 1;
    return in;
}

RGP_DECLARATIONS_END

#endif
