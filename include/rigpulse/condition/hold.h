/* hold (hold last value): bridges bad readings. For the given time after the last usable one its value stands, as held;
 * then the bad quality comes through. Nothing is held before a first usable reading. */
#ifndef RIGPULSE_CONDITION_HOLD_H
#define RIGPULSE_CONDITION_HOLD_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_hold_config {
    float time; /* seconds; above 0, at most 1e6 */
} rgp_hold_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_hold_state {
    uint64_t away_us; /* since the last usable reading */
    float value;      /* the last usable one */
    uint32_t known;   /* 1: the value may still be held */
} rgp_hold_state;

/* RGP_E_CONFIG unless the time is above 0 and at most 1e6 s. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_hold_check(const rgp_hold_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_hold_fault(const rgp_hold_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_hold_reset(rgp_hold_state *state);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_hold_step(const rgp_hold_config *config, rgp_hold_state *state, rgp_reading in, float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/hold.h"

#endif
