/* envelope (peak detector with attack and release): follows the size of a swing about 0: fast up, slow down. A
 * first-order low pass of the absolute value, with one time constant while that is above the output and another one
 * while it is below. Exact for an input held over dt. 0 for a time: at once.
 *
 * The first usable reading passes as its size. On a bad reading the last output is passed on with the bad quality, and
 * the time is kept: the next usable reading acts for all the time since the last one. */
#ifndef RIGPULSE_CONDITION_ENVELOPE_H
#define RIGPULSE_CONDITION_ENVELOPE_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_envelope_config {
    float rise; /* seconds; 0 to 1e6 */
    float fall; /* seconds; 0 to 1e6 */
} rgp_envelope_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_envelope_state {
    uint64_t gap_us;    /* of bad readings since the last usable one */
    float output, lost; /* the output, and what it has not been able to hold */
    uint32_t known;     /* 1: there was a usable reading */
    uint32_t reserved;  /* 0 */
} rgp_envelope_state;

/* RGP_E_CONFIG unless both times are from 0 to 1e6 s. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_envelope_check(const rgp_envelope_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_envelope_fault(const rgp_envelope_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_envelope_reset(rgp_envelope_state *state);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_envelope_step(const rgp_envelope_config *config, rgp_envelope_state *state,
                                            rgp_reading in, float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/envelope.h"

#endif
