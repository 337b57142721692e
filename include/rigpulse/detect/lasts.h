/* lasts (on-delay): a condition that has been true for a time without a break. A shorter one does not count: a glitch
 * leaves no trace.
 *
 * It becomes true `time` after its input did, at the first step that is not before that, and false with its input. A
 * bad input neither breaks the time nor adds to it; the last state stands, as bad as its input. */
#ifndef RIGPULSE_DETECT_LASTS_H
#define RIGPULSE_DETECT_LASTS_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_LASTS_TIME_MAX 36000.0f /* seconds */

/* The settings: the caller's, and only read. */
typedef struct rgp_lasts_config {
    float time; /* seconds; above 0, up to RGP_LASTS_TIME_MAX */
} rgp_lasts_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_lasts_state {
    uint64_t since_us;   /* that the input has been true */
    uint8_t is_true;     /* 1: its input is true */
    uint8_t is;          /* 1: it has been for long enough */
    uint8_t reserved[6]; /* 0 */
} rgp_lasts_state;

/* RGP_E_CONFIG when the time is outside its range. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_lasts_check(const rgp_lasts_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_lasts_fault(const rgp_lasts_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_lasts_reset(rgp_lasts_state *state);

/* The input is true when it is not 0. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_lasts_step(const rgp_lasts_config *config, rgp_lasts_state *state, rgp_reading in,
                                         float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/detect/lasts.h"

#endif
