/* lowest (of a moving window): the least usable reading of the last `time`, and of up to a sixteenth of that before:
 * the window moves on by pieces of a sixteenth, so its memory and its time are the same for every length.
 *
 * The first usable reading passes as it is. On a bad reading the last output is passed on with the bad quality, and the
 * time is kept: with the next usable one the window moves on by all of it. */
#ifndef RIGPULSE_CONDITION_LOWEST_H
#define RIGPULSE_CONDITION_LOWEST_H

#include "rigpulse/block.h"
#include "rigpulse/condition/window.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_lowest_config {
    float time; /* seconds; above 0, at most 1e6 */
} rgp_lowest_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef rgp_window_state rgp_lowest_state;

/* RGP_E_CONFIG unless the time is above 0 and at most 1e6 s. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_lowest_check(const rgp_lowest_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_lowest_fault(const rgp_lowest_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_lowest_reset(rgp_lowest_state *state);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
rgp_reading rgp_lowest_step(const rgp_lowest_config *config, rgp_lowest_state *state, rgp_reading in, float dt);

RGP_DECLARATIONS_END

#endif
