/* onoff (two-position controller): fully on below the setpoint, off from the setpoint plus the margin on; or the other
 * way round. It changes no sooner than a stated time after its last change, which spares what it switches.
 *
 * Its step differs from that of a stage as all controllers' do: it takes the setpoint and what is measured apart, since
 * the answer depends on the side that the error is on and the terms of a loop show both. Like nudge, and unlike pid, it
 * has no input besides them that would need a struct. */
#ifndef RIGPULSE_REGULATE_ONOFF_H
#define RIGPULSE_REGULATE_ONOFF_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_ONOFF_TIME_MAX 1e6f /* seconds */

/* The settings: the caller's, and only read. */
typedef struct rgp_onoff_config {
    float margin;              /* measured units; 0 or more */
    float least_on, least_off; /* seconds; 0 to RGP_ONOFF_TIME_MAX */
    float low, high;           /* output while off, while on; low < high */
    uint32_t reverse;          /* 1: on above the setpoint, off from the setpoint less the margin on */
} rgp_onoff_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_onoff_state {
    uint64_t since_us;   /* of its last change */
    float error;         /* measured units */
    float output;        /* low or high */
    uint8_t is;          /* 1: on */
    uint8_t primed;      /* 1: it has stepped */
    uint8_t reserved[6]; /* 0 */
} rgp_onoff_state;

/* RGP_E_CONFIG when a setting is not finite or outside its range. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_onoff_check(const rgp_onoff_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_onoff_fault(const rgp_onoff_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
static inline void rgp_onoff_reset(rgp_onoff_state *state);

/* low or high. At its first step it may change at once. On a bad reading the last output stands, with the bad quality.
 * dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_onoff_step(const rgp_onoff_config *config, rgp_onoff_state *state, rgp_reading setpoint,
                                         rgp_reading measured, float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/regulate/onoff.h"

#endif
