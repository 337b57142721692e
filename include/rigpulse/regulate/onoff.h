/* onoff (two-position controller): fully on below the setpoint, off from the setpoint plus the margin on; or the other
 * way round. It changes no sooner than a stated time after its last change, which spares what it switches. */
#ifndef RIGPULSE_REGULATE_ONOFF_H
#define RIGPULSE_REGULATE_ONOFF_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

#include <string.h>

RGP_DECLARATIONS_BEGIN

#define RGP_ONOFF_TIME_MAX 1e6f

typedef struct rgp_onoff_config {
    float margin;              /* measured units; 0 or more */
    float least_on, least_off; /* seconds; 0 to RGP_ONOFF_TIME_MAX */
    float low, high;           /* output while off, while on; low < high */
    uint32_t reverse;          /* 1: on above the setpoint, off from the setpoint less the margin on */
} rgp_onoff_config;

typedef struct rgp_onoff_state {
    uint64_t since_us; /* of its last change */
    float error;       /* measured units */
    float output;
    uint8_t is;
    uint8_t primed;
} rgp_onoff_state;

/* RGP_E_CONFIG when a setting is not finite or outside its range. */
rgp_status rgp_onoff_check(const rgp_onoff_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_onoff_fault(const rgp_onoff_config *config);

static inline void rgp_onoff_reset(rgp_onoff_state *state)
{
    memset(state, 0, sizeof *state);
}

/* low or high. At its first step it may change at once. On a bad reading the last output stands, with the bad quality.
 * dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_onoff_step(const rgp_onoff_config *config, rgp_onoff_state *state, rgp_reading setpoint,
                                         rgp_reading measured, float dt)
{
    const rgp_quality quality = rgp_worst(setpoint.quality, measured.quality);
    if (dt > 0.0f) {
        state->since_us += rgp_microseconds(dt);
    }
    if (rgp_usable(quality) && dt > 0.0f) {
        const float error = setpoint.value - measured.value;
        const float wants = config->reverse ? -error : error;
        const uint8_t on = state->is ? wants > -config->margin : wants > 0.0f;
        const float least = state->is ? config->least_on : config->least_off;
        state->error = error;
        if (!state->primed || (on != state->is && state->since_us >= rgp_microseconds(least))) {
            state->since_us = on != state->is || !state->primed ? 0 : state->since_us;
            state->is = on;
            state->primed = 1;
        }
    }
    state->output = state->is ? config->high : config->low;
    return rgp_reading_of(state->output, quality);
}

RGP_DECLARATIONS_END

#endif
