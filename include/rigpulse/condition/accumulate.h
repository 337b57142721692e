/* accumulate (integrator): a rate into a sum, by the trapezoid rule; the sum is compensated (Kahan, 1965), so that
 * hours at 1 kHz lose nothing in float. Begins at 0. Once a reading was bad the sum cannot be known any more: it stays
 * bad, with that quality, until it is reset. */
#ifndef RIGPULSE_CONDITION_ACCUMULATE_H
#define RIGPULSE_CONDITION_ACCUMULATE_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_accumulate_config {
    float gain; /* output units per input unit and second; not 0 */
} rgp_accumulate_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_accumulate_state {
    float sum, rest;     /* what the sum has not been able to hold */
    float rate;          /* the last one */
    uint8_t known;       /* 1: there was a usable reading */
    rgp_quality lost;    /* of the bad reading behind which the sum is not known; RGP_GOOD: it is */
    uint8_t reserved[2]; /* 0 */
} rgp_accumulate_state;

/* RGP_E_CONFIG when the gain is not finite or 0. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_accumulate_check(const rgp_accumulate_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_accumulate_fault(const rgp_accumulate_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_accumulate_reset(rgp_accumulate_state *state);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_accumulate_step(const rgp_accumulate_config *config, rgp_accumulate_state *state,
                                              rgp_reading in, float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/accumulate.h"

#endif
