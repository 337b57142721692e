/* bands (multi-level comparator with hysteresis): the one of up to 16 neighbouring bands in which a quantity lies,
 * counted from 0 for the lowest.
 *
 * Each border belongs to one of its two bands, as in "low below 3" or "high above 9": that band is
 * entered exactly at the border and left only past it by the whole margin (as in compare.h). The first
 * usable reading is judged by the borders alone. On a bad reading the last band stands, with the bad
 * quality. */
#ifndef RIGPULSE_DETECT_BANDS_H
#define RIGPULSE_DETECT_BANDS_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_BANDS_BORDERS_MAX 15 /* of one set */

/* Only the first `borders` places of border[] are read; RGP_BANDS_CONFIG_BYTES(borders) bytes hold them. */
typedef struct rgp_bands_config {
    uint16_t borders;                    /* 1 to 15 */
    uint16_t above;                      /* bit i: border i belongs to the band above it; else to the one below it */
    float margin;                        /* in the quantity's unit; 0 or more */
    float border[RGP_BANDS_BORDERS_MAX]; /* rising */
} rgp_bands_config;

#define RGP_BANDS_CONFIG_BYTES(borders) (8u + 4u * (borders)) /* of settings with so many borders */

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_bands_state {
    uint8_t known; /* 1: there was a usable reading */
    uint8_t band;  /* 0 for the lowest, up to `borders` */
} rgp_bands_state;

/* RGP_E_CONFIG when a number is not finite, the margin is negative, the borders do not rise, or the margins of two
 * neighbouring borders meet within the band between them. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_bands_check(const rgp_bands_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_bands_fault(const rgp_bands_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_bands_reset(rgp_bands_state *state);

/* The band's number as a float, so that it travels like any value. dt in seconds; 0 steps no state.
 *
 * Time: at most two comparisons a border. Memory: that of its arguments alone. Threads: one at a time for each state.
 */
static inline rgp_reading rgp_bands_step(const rgp_bands_config *config, rgp_bands_state *state, rgp_reading in,
                                         float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/detect/bands.h"

#endif
