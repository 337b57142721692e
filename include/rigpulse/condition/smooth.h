/* smooth (first-order low pass): a low pass, given by its time constant. Exact for an input held over dt, at any
 * dt: after one time constant it has taken 63.2 % of a step. The output is kept in two floats, so that it arrives, to
 * 1e-6 of a step or two units in the last place, whichever is more, with time constants up to 1e8 steps.
 *
 * The first usable reading passes as it is. On a bad reading the last output is passed on with the bad
 * quality, and the time is kept: the next usable reading acts for all the time since the last one. */
#ifndef RIGPULSE_CONDITION_SMOOTH_H
#define RIGPULSE_CONDITION_SMOOTH_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_smooth_config {
    float time_constant; /* seconds; above 0, at most 1e6 */
} rgp_smooth_config;

typedef struct rgp_smooth_state {
    uint64_t gap_us;     /* of bad readings since the last usable one */
    float output, lost;  /* the output, and what it has not been able to hold */
    float dt;            /* what `share` was computed for; 0 before the first reading */
    float time_constant; /* the same; 0 behind a gap */
    float share;         /* of the way to the input that one dt takes */
} rgp_smooth_state;

/* RGP_E_CONFIG unless the time constant is finite, above 0 and at most 1e6 s. */
rgp_status rgp_smooth_check(const rgp_smooth_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_smooth_fault(const rgp_smooth_config *config);

void rgp_smooth_reset(rgp_smooth_state *state);

/* The part of rgp_smooth_step() before it steps by a new dt, with a new time constant, at the first reading and around
 * gaps. */
void rgp_smooth_adapt(const rgp_smooth_config *config, rgp_smooth_state *state, float value, float dt);

/* dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_smooth_step(const rgp_smooth_config *config, rgp_smooth_state *state, rgp_reading in,
                                          float dt)
{
    if (!rgp_usable(in.quality) || !(dt > 0.0f)) {
        state->gap_us += rgp_microseconds(dt);
        state->time_constant = 0.0f;
        return rgp_reading_of(state->dt > 0.0f ? state->output : in.value, in.quality);
    }
    if (dt != state->dt || config->time_constant != state->time_constant) {
        rgp_smooth_adapt(config, state, in.value, dt);
    }
    rgp_add(&state->output, &state->lost, state->share * ((in.value - state->output) - state->lost));
    return rgp_reading_of(state->output, in.quality);
}

RGP_DECLARATIONS_END

#endif
