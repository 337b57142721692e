/* lasts (on-delay): a condition that has been true for a time without a break. A shorter one does not count: a glitch
 * leaves no trace.
 *
 * It becomes true `time` after its input did, at the first step that is not before that, and false with its input. A
 * bad input neither breaks the time nor adds to it; the last state stands, as bad as its input. */
#ifndef RIGPULSE_DETECT_LASTS_H
#define RIGPULSE_DETECT_LASTS_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

#define RGP_LASTS_TIME_MAX 36000.0f

typedef struct rgp_lasts_config {
    float time; /* seconds; above 0, up to RGP_LASTS_TIME_MAX */
} rgp_lasts_config;

typedef struct rgp_lasts_state {
    uint64_t since_us; /* that the input has been true */
    uint8_t is_true;
    uint8_t is;
} rgp_lasts_state;

/* RGP_E_CONFIG when the time is outside its range. */
rgp_status rgp_lasts_check(const rgp_lasts_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_lasts_fault(const rgp_lasts_config *config);

void rgp_lasts_reset(rgp_lasts_state *state);

/* The input is true when it is not 0. dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_lasts_step(const rgp_lasts_config *config, rgp_lasts_state *state, rgp_reading in,
                                         float dt)
{
    if (rgp_usable(in.quality) && dt > 0.0f) {
        const uint8_t is_true = in.value != 0.0f;
        if (!is_true || !state->is_true) {
            state->since_us = 0;
            state->is = 0;
        } else if (!state->is) {
            state->since_us += rgp_microseconds(dt);
            state->is = state->since_us >= rgp_microseconds(config->time);
        }
        state->is_true = is_true;
    }
    return rgp_reading_of(state->is ? 1.0f : 0.0f, in.quality);
}

RGP_DECLARATIONS_END

#endif
