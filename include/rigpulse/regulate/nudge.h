/* nudge (incremental controller): at each pace it moves its output by one step against the sign of the error, and
 * stands still within a tolerance. It begins where the actuator is, needs no gains, and is as fast as step over pace.
 */
#ifndef RIGPULSE_REGULATE_NUDGE_H
#define RIGPULSE_REGULATE_NUDGE_H

#include "rigpulse/drive/limit.h"
#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

#include <string.h>

RGP_DECLARATIONS_BEGIN

#define RGP_NUDGE_PACE_MAX 1e6f

typedef struct rgp_nudge_config {
    float step;       /* output units; above 0 */
    float pace;       /* seconds from step to step; above 0, at most RGP_NUDGE_PACE_MAX */
    float within;     /* measured units; 0 or more: an error up to this one is left alone */
    float low, high;  /* of the output; low < high */
    uint32_t reverse; /* 1: a greater output makes what is measured fall */
} rgp_nudge_config;

typedef struct rgp_nudge_state {
    uint64_t waited_us; /* since the last pace */
    float error;        /* measured units */
    float output;
    uint32_t primed;
} rgp_nudge_state;

/* RGP_E_CONFIG when a setting is not finite or outside its range. */
rgp_status rgp_nudge_check(const rgp_nudge_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_nudge_fault(const rgp_nudge_config *config);

static inline void rgp_nudge_reset(rgp_nudge_state *state)
{
    memset(state, 0, sizeof *state);
}

/* Goes on from `taken`, where somebody else has driven the actuator to. Output units. */
static inline void rgp_nudge_follow(const rgp_nudge_config *config, rgp_nudge_state *state, float taken)
{
    state->output = rgp_limit(taken, config->low, config->high);
    state->primed = 1;
}

/* The output. `taken`: where the actuator is at the first step. On a bad reading the last output stands, with the bad
 * quality. dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_nudge_step(const rgp_nudge_config *config, rgp_nudge_state *state, rgp_reading setpoint,
                                         rgp_reading measured, float taken, float dt)
{
    const rgp_quality quality = rgp_worst(setpoint.quality, measured.quality);
    if (!state->primed) {
        rgp_nudge_follow(config, state, taken);
    }
    if (dt > 0.0f) {
        state->waited_us += rgp_microseconds(dt);
    }
    if (rgp_usable(quality) && dt > 0.0f) {
        state->error = setpoint.value - measured.value;
        const float wants = config->reverse ? -state->error : state->error;
        const uint64_t pace = rgp_microseconds(config->pace);
        if (state->waited_us >= pace) {
            state->waited_us = state->waited_us < 2 * pace ? state->waited_us - pace : 0;
            const float step = wants > config->within ? config->step : wants < -config->within ? -config->step : 0.0f;
            state->output = rgp_limit(state->output + step, config->low, config->high);
        }
    }
    return rgp_reading_of(state->output, quality);
}

RGP_DECLARATIONS_END

#endif
