/* moved (deviation from a moving baseline): true while a quantity is away, either way, from its own slow baseline by
 * more than an amount: anything that moved, whatever its level.
 *
 * The baseline is a first-order low pass of the quantity; it begins at the first usable reading and goes on while it is
 * away, so a change that stays is taken for the new level after a few time constants. False again when the distance
 * has come back by the margin. On a bad reading the last answer stands, with the bad quality. */
#ifndef RIGPULSE_DETECT_MOVED_H
#define RIGPULSE_DETECT_MOVED_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_moved_config {
    float amount;        /* in the quantity's unit; above 0 */
    float margin;        /* in the quantity's unit; from 0 to the amount */
    float time_constant; /* of the baseline, in seconds; above 0, up to 1e6 */
} rgp_moved_config;

typedef struct rgp_moved_state {
    uint64_t gap_us;      /* without a usable reading */
    float baseline, lost; /* the baseline, and what it has not been able to hold */
    uint8_t known;
    uint8_t is;
} rgp_moved_state;

/* RGP_E_CONFIG when a number is outside its range. */
rgp_status rgp_moved_check(const rgp_moved_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_moved_fault(const rgp_moved_config *config);

void rgp_moved_reset(rgp_moved_state *state);

/* 1 for true, 0 for false. dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_moved_step(const rgp_moved_config *config, rgp_moved_state *state, rgp_reading in,
                                         float dt)
{
    if (!rgp_usable(in.quality) || !(dt > 0.0f)) {
        state->gap_us += rgp_microseconds(dt);
        return rgp_reading_of(state->is ? 1.0f : 0.0f, in.quality);
    }
    if (!state->known) {
        state->known = 1;
        state->baseline = in.value;
    }
    const float away = (in.value - state->baseline) - state->lost, size = away < 0.0f ? -away : away;
    state->is = size > config->amount - (state->is ? config->margin : 0.0f);
    const float passed = state->gap_us > 0 ? dt + rgp_seconds(state->gap_us) : dt;
    rgp_add(&state->baseline, &state->lost, rgp_decay(passed / config->time_constant) * away);
    state->gap_us = 0;
    return rgp_reading_of(state->is ? 1.0f : 0.0f, in.quality);
}

RGP_DECLARATIONS_END

#endif
