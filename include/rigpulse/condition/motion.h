/* Motion sensors: mounted axes, tilt from gravity, and the fusing of a turning rate with it.
 *
 * Axes: x forward, y to the left, z up. Roll turns about x, pitch about y. A sensor at rest reads +1 g upwards. */
#ifndef RIGPULSE_CONDITION_MOTION_H
#define RIGPULSE_CONDITION_MOTION_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

#include <math.h>

/* ---- axes: which sensor axis, with which sign, is the device's x, y and z --------------------------- */

typedef struct rp_axes_config {
    int32_t from[3]; /* +1, +2, +3: the sensor's x, y, z; negative: flipped. Each axis once. */
} rp_axes_config;

/* RP_E_CONFIG unless each sensor axis is used once and the hand of the axes is kept (no mirror image). */
rp_status rp_axes_check(const rp_axes_config *config);

void rp_axes_step(const rp_axes_config *config, const float sensor[3], float device[3]);

/* ---- tilt ----------------------------------------------------------------------------------------- */

enum { RP_TILT_ROLL = 0, RP_TILT_PITCH = 1 };

typedef struct rp_tilt_config {
    uint32_t which; /* RP_TILT_ROLL or RP_TILT_PITCH */
} rp_tilt_config;

/* RP_E_CONFIG when it is neither. */
rp_status rp_tilt_check(const rp_tilt_config *config);

/* Degrees: roll -180..180 = atan2(y, z), pitch -90..90 = atan2(-x, sqrt(y^2 + z^2)), from accelerations in any one
 * unit. In free fall (nothing felt) it is out of range. */
static inline rp_reading rp_tilt_step(const rp_tilt_config *config, rp_reading x, rp_reading y, rp_reading z)
{
    const rp_quality quality = rp_worst(x.quality, rp_worst(y.quality, z.quality));
    if (x.value == 0.0f && y.value == 0.0f && z.value == 0.0f) {
        return (rp_reading){0.0f, rp_worst(quality, RP_OUT_OF_RANGE)};
    }
    const float angle = config->which == RP_TILT_ROLL
                            ? rp_atan2_degrees(y.value, z.value)
                            : rp_atan2_degrees(-x.value, sqrtf(y.value * y.value + z.value * z.value));
    return rp_number(angle, quality);
}

/* ---- fuse ----------------------------------------------------------------------------------------- */

typedef struct rp_fuse_config {
    float time_constant; /* seconds; above 0: below it the rate is believed, above it the tilt */
    float gain;          /* output units per rate unit and second; not 0 */
} rp_fuse_config;

typedef struct rp_fuse_state {
    uint64_t gap_us;
    float angle, lost;              /* the angle, and what it has not been able to hold */
    float dt, time_constant, share; /* of the step and the setting that the share was worked out for */
    uint32_t known;
} rp_fuse_state;

/* RP_E_CONFIG when a number is not finite or outside what is said above. */
rp_status rp_fuse_check(const rp_fuse_config *config);

void rp_fuse_reset(rp_fuse_state *state);

/* A complementary filter: angle <- angle + rate dt, then towards the tilt by 1 - e^(-dt / T). The first usable pair
 * sets the angle to the tilt. `tilt` in the output unit. dt in seconds; dt = 0 steps no state. */
static inline rp_reading rp_fuse_step(const rp_fuse_config *config, rp_fuse_state *state, rp_reading rate,
                                      rp_reading tilt, float dt)
{
    const rp_quality quality = rp_worst(rate.quality, tilt.quality);
    if (!rp_usable(quality) || !(dt > 0.0f)) {
        state->gap_us += rp_microseconds(dt);
        return (rp_reading){state->angle, quality};
    }
    if (state->gap_us > 0) {
        dt += rp_seconds(state->gap_us);
        state->gap_us = 0;
    }
    if (!state->known) {
        state->known = 1;
        state->angle = tilt.value;
    } else {
        if (dt != state->dt || config->time_constant != state->time_constant) {
            state->dt = dt;
            state->time_constant = config->time_constant;
            state->share = rp_decay(dt / config->time_constant);
        }
        rp_add(&state->angle, &state->lost, rate.value * config->gain * dt);
        rp_add(&state->angle, &state->lost, state->share * ((tilt.value - state->angle) - state->lost));
    }
    if (!rp_finite(state->angle) || !rp_finite(state->lost)) {
        state->angle = state->lost = 0.0f;
        return (rp_reading){0.0f, RP_OUT_OF_RANGE};
    }
    return (rp_reading){state->angle, quality};
}

/* ---- is it mounted as one thinks ------------------------------------------------------------------- */

/* At rest: which axis points up (+1, +2, +3 for x, y, z; negative: down), 0 when none is within 25 degrees of it.
 * *g: the length of what is felt, in the unit of the readings. */
int32_t rp_mounting_up(const float felt[3], float *g);

#endif
