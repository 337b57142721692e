/* still (standstill detector): true when a quantity has stayed where it is for a time.
 *
 * It counts as moving when it leaves, by more than `within`, the value that it had when it last moved. On a bad reading
 * the time does not go on, and the last answer stands with the bad quality. */
#ifndef RIGPULSE_DETECT_STILL_H
#define RIGPULSE_DETECT_STILL_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_STILL_TIME_MAX 1e6f /* seconds */

/* The settings: the caller's, and only read. */
typedef struct rgp_still_config {
    float time;   /* seconds; above 0, up to RGP_STILL_TIME_MAX */
    float within; /* in the quantity's unit; 0 or more */
} rgp_still_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_still_state {
    uint64_t since_us; /* it has stood still */
    float at;          /* where it began to */
    uint32_t known;    /* 1: there was a usable reading */
} rgp_still_state;

/* RGP_E_CONFIG when a number is outside its range. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_still_check(const rgp_still_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_still_fault(const rgp_still_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_still_reset(rgp_still_state *state);

/* 1 for true, 0 for false. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_still_step(const rgp_still_config *config, rgp_still_state *state, rgp_reading in,
                                         float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/detect/still.h"

#endif
