/* smooth (first-order low pass): a low pass, given by its time constant. Exact for an input held over dt, at any
 * dt: after one time constant it has taken 63.2 % of a step. The output is kept in two floats, so that it arrives, to
 * 1e-6 of a step or two units in the last place, whichever is more, with time constants up to 1e8 steps.
 *
 * The first usable reading passes as it is. On a bad reading the last output is passed on with the bad
 * quality, and the time is kept: the next usable reading acts for all the time since the last one. */
#ifndef RIGPULSE_CONDITION_SMOOTH_H
#define RIGPULSE_CONDITION_SMOOTH_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_smooth_config {
    float time_constant; /* seconds; above 0, at most 1e6 */
} rgp_smooth_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_smooth_state {
    uint64_t gap_us;     /* of bad readings since the last usable one */
    float output, lost;  /* the output, and what it has not been able to hold */
    float dt;            /* what `share` was computed for; 0 before the first reading */
    float time_constant; /* the same; 0 behind a gap */
    float share;         /* of the way to the input that one dt takes */
    uint32_t reserved;   /* 0 */
} rgp_smooth_state;

/* RGP_E_CONFIG unless the time constant is finite, above 0 and at most 1e6 s. Else RGP_OK. Only the settings are looked
 * at. */
rgp_status rgp_smooth_check(const rgp_smooth_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_smooth_fault(const rgp_smooth_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_smooth_reset(rgp_smooth_state *state);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_smooth_step(const rgp_smooth_config *config, rgp_smooth_state *state, rgp_reading in,
                                          float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/smooth.h"

#endif
