/* nudge (incremental controller): at each pace it moves its output by one step against the sign of the error, and
 * stands still within a tolerance. It begins where the actuator is, needs no gains, and is as fast as step over pace.
 */
#ifndef RIGPULSE_REGULATE_NUDGE_H
#define RIGPULSE_REGULATE_NUDGE_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_NUDGE_PACE_MAX 1e6f /* seconds */

/* The settings: the caller's, and only read. */
typedef struct rgp_nudge_config {
    float step;       /* output units; above 0 */
    float pace;       /* seconds from step to step; above 0, at most RGP_NUDGE_PACE_MAX */
    float within;     /* measured units; 0 or more: an error up to this one is left alone */
    float low, high;  /* of the output; low < high */
    uint32_t reverse; /* 1: a greater output makes what is measured fall */
} rgp_nudge_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_nudge_state {
    uint64_t waited_us; /* since the last pace */
    float error;        /* measured units */
    float output;       /* output units */
    uint32_t primed;    /* 1: it knows where the actuator is */
    uint32_t reserved;  /* 0 */
} rgp_nudge_state;

/* RGP_E_CONFIG when a setting is not finite or outside its range. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_nudge_check(const rgp_nudge_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_nudge_fault(const rgp_nudge_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
static inline void rgp_nudge_reset(rgp_nudge_state *state);

/* Goes on from `driven`, where somebody else has driven the actuator to. Output units. */
static inline void rgp_nudge_follow(const rgp_nudge_config *config, rgp_nudge_state *state, float driven);

/* The output. `driven`: where the actuator is at the first step. On a bad reading the last output stands, with the bad
 * quality. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_nudge_step(const rgp_nudge_config *config, rgp_nudge_state *state, rgp_reading setpoint,
                                         rgp_reading measured, float driven, float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/regulate/nudge.h"

#endif
