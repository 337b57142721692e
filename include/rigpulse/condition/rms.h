/* rms (root mean square): the effective size of a swing about 0: the root of the mean of the squares, under a
 * first-order low pass of the given time constant, exact for an input held over dt. A sine of amplitude A has A /
 * sqrt(2).
 *
 * The first usable reading passes as its size. On a bad reading the last output is passed on with the bad quality, and
 * the time is kept: the next usable reading acts for all the time since the last one. A square that no float holds is
 * out of range, and begins anew. */
#ifndef RIGPULSE_CONDITION_RMS_H
#define RIGPULSE_CONDITION_RMS_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_rms_config {
    float time_constant; /* seconds; above 0, at most 1e6 */
} rgp_rms_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_rms_state {
    uint64_t gap_us;    /* of bad readings since the last usable one */
    float square, lost; /* the mean square, and what it has not been able to hold */
    uint32_t known;     /* 1: there was a usable reading */
    uint32_t reserved;  /* 0 */
} rgp_rms_state;

/* RGP_E_CONFIG unless the time constant is above 0 and at most 1e6 s. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_rms_check(const rgp_rms_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_rms_fault(const rgp_rms_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_rms_reset(rgp_rms_state *state);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_rms_step(const rgp_rms_config *config, rgp_rms_state *state, rgp_reading in, float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/rms.h"

#endif
