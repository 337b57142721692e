/* moved: whether a quantity is away, either way, from its own slow baseline by more than an amount: anything that
 * moved, whatever its level.
 *
 * The baseline is a first-order low pass of the quantity; it begins at the first usable reading and goes on while it is
 * away, so a change that stays is taken for the new level after a few time constants. False again when the distance
 * has come back by the margin. On a bad reading the last answer stands, with the bad quality. */
#ifndef RIGPULSE_DETECT_MOVED_H
#define RIGPULSE_DETECT_MOVED_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_moved_config {
    float amount;        /* in the quantity's unit; above 0 */
    float margin;        /* in the quantity's unit; from 0 to the amount */
    float time_constant; /* of the baseline, in seconds; above 0, up to 1e6 */
} rp_moved_config;

typedef struct rp_moved_state {
    float baseline;
    float gap; /* seconds without a usable reading */
    uint8_t known;
    uint8_t is;
} rp_moved_state;

/* RP_E_CONFIG when a number is outside its range. */
rp_status rp_moved_check(const rp_moved_config *config);

void rp_moved_reset(rp_moved_state *state);

/* 1 for true, 0 for false. dt in seconds; dt = 0 steps no state. */
static inline rp_reading rp_moved_step(const rp_moved_config *config, rp_moved_state *state, rp_reading in, float dt)
{
    if (!rp_usable(in.quality) || dt <= 0.0f) {
        state->gap += dt;
        return (rp_reading){state->is ? 1.0f : 0.0f, in.quality};
    }
    if (!state->known) {
        state->known = 1;
        state->baseline = in.value;
    }
    const float away = in.value - state->baseline, size = away < 0.0f ? -away : away;
    state->is = size > config->amount - (state->is ? config->margin : 0.0f);
    state->baseline += rp_decay((dt + state->gap) / config->time_constant) * away;
    state->gap = 0.0f;
    return (rp_reading){state->is ? 1.0f : 0.0f, in.quality};
}

#endif
