/* Motion sensors: mounted axes, tilt from gravity, and the fusing of a turning rate with it.
 *
 * Axes: x forward, y to the left, z up. Roll turns about x, pitch about y. A sensor at rest reads +1 g upwards. */
#ifndef RIGPULSE_CONDITION_MOTION_H
#define RIGPULSE_CONDITION_MOTION_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* ---- axes: which sensor axis, with which sign, is the device's x, y and z --------------------------- */

/* The settings: the caller's, and only read. */
typedef struct rgp_axes_config {
    int32_t from[3]; /* +1, +2, +3: the sensor's x, y, z; negative: flipped. Each axis once. */
} rgp_axes_config;

/* RGP_E_CONFIG unless each sensor axis is used once and the hand of the axes is kept (no mirror image). Else RGP_OK.
 * Only the settings are looked at. */
rgp_status rgp_axes_check(const rgp_axes_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_axes_fault(const rgp_axes_config *config);

/* The result, and how far it can be trusted: no further than what goes in.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
void rgp_axes_step(const rgp_axes_config *config, const float sensor[3], float device[3]);

/* ---- tilt ----------------------------------------------------------------------------------------- */

enum { RGP_TILT_ROLL = 0, RGP_TILT_PITCH = 1 }; /* about x; about y */

/* The settings: the caller's, and only read. */
typedef struct rgp_tilt_config {
    uint32_t which; /* RGP_TILT_ROLL or RGP_TILT_PITCH */
} rgp_tilt_config;

/* RGP_E_CONFIG when it is neither. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_tilt_check(const rgp_tilt_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_tilt_fault(const rgp_tilt_config *config);

/* Degrees: roll -180..180 = atan2(y, z), pitch -90..90 = atan2(-x, sqrt(y^2 + z^2)), from accelerations in any one
 * unit. In free fall (nothing felt) it is out of range.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_tilt_step(const rgp_tilt_config *config, rgp_reading x, rgp_reading y, rgp_reading z);

/* ---- fuse ----------------------------------------------------------------------------------------- */

/* The settings: the caller's, and only read. */
typedef struct rgp_fuse_config {
    float time_constant; /* seconds; above 0: below it the rate is believed, above it the tilt */
    float gain;          /* output units per rate unit and second; not 0 */
} rgp_fuse_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_fuse_state {
    uint64_t gap_us;                /* since the last usable pair of readings */
    float angle, lost;              /* the angle, and what it has not been able to hold */
    float dt, time_constant, share; /* of the step and the setting that the share was worked out for */
    uint32_t known;                 /* 1: there was one */
} rgp_fuse_state;

/* RGP_E_CONFIG when a number is not finite or outside what is said above. Else RGP_OK. Only the settings are looked at.
 */
rgp_status rgp_fuse_check(const rgp_fuse_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_fuse_fault(const rgp_fuse_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_fuse_reset(rgp_fuse_state *state);

/* A complementary filter: angle <- angle + rate dt, then towards the tilt by 1 - e^(-dt / T). The first usable pair
 * sets the angle to the tilt. `tilt` in the output unit. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_fuse_step(const rgp_fuse_config *config, rgp_fuse_state *state, rgp_reading rate,
                                        rgp_reading tilt, float dt);

/* ---- is it mounted as one thinks ------------------------------------------------------------------- */

/* At rest: which axis points up (+1, +2, +3 for x, y, z; negative: down), 0 when none is within 25 degrees of it.
 * *g: the length of what is felt, in the unit of the readings. */
int32_t rgp_mounting_up(const float felt[3], float *g);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/motion.h"

#endif
