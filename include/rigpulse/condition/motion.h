/* Motion sensors: mounted axes, tilt from gravity, and the fusing of a turning rate with it.
 *
 * Axes: x forward, y to the left, z up. Roll turns about x, pitch about y. A sensor at rest reads +1 g upwards. */
#ifndef RIGPULSE_CONDITION_MOTION_H
#define RIGPULSE_CONDITION_MOTION_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

#include <math.h>

RGP_DECLARATIONS_BEGIN

/* ---- axes: which sensor axis, with which sign, is the device's x, y and z --------------------------- */

typedef struct rgp_axes_config {
    int32_t from[3]; /* +1, +2, +3: the sensor's x, y, z; negative: flipped. Each axis once. */
} rgp_axes_config;

/* RGP_E_CONFIG unless each sensor axis is used once and the hand of the axes is kept (no mirror image). */
rgp_status rgp_axes_check(const rgp_axes_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_axes_fault(const rgp_axes_config *config);

void rgp_axes_step(const rgp_axes_config *config, const float sensor[3], float device[3]);

/* ---- tilt ----------------------------------------------------------------------------------------- */

enum { RGP_TILT_ROLL = 0, RGP_TILT_PITCH = 1 };

typedef struct rgp_tilt_config {
    uint32_t which; /* RGP_TILT_ROLL or RGP_TILT_PITCH */
} rgp_tilt_config;

/* RGP_E_CONFIG when it is neither. */
rgp_status rgp_tilt_check(const rgp_tilt_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_tilt_fault(const rgp_tilt_config *config);

/* Degrees: roll -180..180 = atan2(y, z), pitch -90..90 = atan2(-x, sqrt(y^2 + z^2)), from accelerations in any one
 * unit. In free fall (nothing felt) it is out of range. */
static inline rgp_reading rgp_tilt_step(const rgp_tilt_config *config, rgp_reading x, rgp_reading y, rgp_reading z)
{
    const rgp_quality quality = rgp_worst(x.quality, rgp_worst(y.quality, z.quality));
    if (x.value == 0.0f && y.value == 0.0f && z.value == 0.0f) {
        return rgp_reading_of(0.0f, rgp_worst(quality, RGP_OUT_OF_RANGE));
    }
    const float angle = config->which == RGP_TILT_ROLL
                            ? rgp_atan2_degrees(y.value, z.value)
                            : rgp_atan2_degrees(-x.value, sqrtf(y.value * y.value + z.value * z.value));
    return rgp_number(angle, quality);
}

/* ---- fuse ----------------------------------------------------------------------------------------- */

typedef struct rgp_fuse_config {
    float time_constant; /* seconds; above 0: below it the rate is believed, above it the tilt */
    float gain;          /* output units per rate unit and second; not 0 */
} rgp_fuse_config;

typedef struct rgp_fuse_state {
    uint64_t gap_us;
    float angle, lost;              /* the angle, and what it has not been able to hold */
    float dt, time_constant, share; /* of the step and the setting that the share was worked out for */
    uint32_t known;
} rgp_fuse_state;

/* RGP_E_CONFIG when a number is not finite or outside what is said above. */
rgp_status rgp_fuse_check(const rgp_fuse_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_fuse_fault(const rgp_fuse_config *config);

void rgp_fuse_reset(rgp_fuse_state *state);

/* A complementary filter: angle <- angle + rate dt, then towards the tilt by 1 - e^(-dt / T). The first usable pair
 * sets the angle to the tilt. `tilt` in the output unit. dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_fuse_step(const rgp_fuse_config *config, rgp_fuse_state *state, rgp_reading rate,
                                        rgp_reading tilt, float dt)
{
    const rgp_quality quality = rgp_worst(rate.quality, tilt.quality);
    if (!rgp_usable(quality) || !(dt > 0.0f)) {
        state->gap_us += rgp_microseconds(dt);
        return rgp_reading_of(state->angle, quality);
    }
    if (state->gap_us > 0) {
        dt += rgp_seconds(state->gap_us);
        state->gap_us = 0;
    }
    if (!state->known) {
        state->known = 1;
        state->angle = tilt.value;
    } else {
        if (dt != state->dt || config->time_constant != state->time_constant) {
            state->dt = dt;
            state->time_constant = config->time_constant;
            state->share = rgp_decay(dt / config->time_constant);
        }
        rgp_add(&state->angle, &state->lost, rate.value * config->gain * dt);
        rgp_add(&state->angle, &state->lost, state->share * ((tilt.value - state->angle) - state->lost));
    }
    if (!rgp_finite(state->angle) || !rgp_finite(state->lost)) {
        state->angle = state->lost = 0.0f;
        return rgp_reading_of(0.0f, RGP_OUT_OF_RANGE);
    }
    return rgp_reading_of(state->angle, quality);
}

/* ---- is it mounted as one thinks ------------------------------------------------------------------- */

/* At rest: which axis points up (+1, +2, +3 for x, y, z; negative: down), 0 when none is within 25 degrees of it.
 * *g: the length of what is felt, in the unit of the readings. */
int32_t rgp_mounting_up(const float felt[3], float *g);

RGP_DECLARATIONS_END

#endif
