/* moved (deviation from a moving baseline): true while a quantity is away, either way, from its own slow baseline by
 * more than an amount: anything that moved, whatever its level.
 *
 * The baseline is a first-order low pass of the quantity; it begins at the first usable reading and goes on while it is
 * away, so a change that stays is taken for the new level after a few time constants. False again when the distance
 * has come back by the margin. On a bad reading the last answer stands, with the bad quality. */
#ifndef RIGPULSE_DETECT_MOVED_H
#define RIGPULSE_DETECT_MOVED_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_moved_config {
    float amount;        /* in the quantity's unit; above 0 */
    float margin;        /* in the quantity's unit; from 0 to the amount */
    float time_constant; /* of the baseline, in seconds; above 0, up to 1e6 */
} rgp_moved_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_moved_state {
    uint64_t gap_us;      /* without a usable reading */
    float baseline, lost; /* the baseline, and what it has not been able to hold */
    uint8_t known;        /* 1: there was a usable reading */
    uint8_t is;           /* 1: it has moved */
    uint8_t reserved[6];  /* 0 */
} rgp_moved_state;

/* RGP_E_CONFIG when a number is outside its range. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_moved_check(const rgp_moved_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_moved_fault(const rgp_moved_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_moved_reset(rgp_moved_state *state);

/* 1 for true, 0 for false. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_moved_step(const rgp_moved_config *config, rgp_moved_state *state, rgp_reading in,
                                         float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/detect/moved.h"

#endif
