/* bands (multi-level comparator with hysteresis): the one of up to 16 neighbouring bands in which a quantity lies,
 * counted from 0 for the lowest.
 *
 * Each border belongs to one of its two bands, as in "low below 3" or "high above 9": that band is
 * entered exactly at the border and left only past it by the whole margin (as in compare.h). The first
 * usable reading is judged by the borders alone. On a bad reading the last band stands, with the bad
 * quality. */
#ifndef RIGPULSE_DETECT_BANDS_H
#define RIGPULSE_DETECT_BANDS_H

#include "rigpulse/linkage.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

#define RGP_BANDS_BORDERS_MAX 15

/* Only the first `borders` places of border[] are read; RGP_BANDS_CONFIG_BYTES(borders) bytes hold them. */
typedef struct rgp_bands_config {
    uint16_t borders;                    /* 1 to 15 */
    uint16_t above;                      /* bit i: border i belongs to the band above it; else to the one below it */
    float margin;                        /* in the quantity's unit; 0 or more */
    float border[RGP_BANDS_BORDERS_MAX]; /* rising */
} rgp_bands_config;

#define RGP_BANDS_CONFIG_BYTES(borders) (8u + 4u * (borders))

typedef struct rgp_bands_state {
    uint8_t known;
    uint8_t band;
} rgp_bands_state;

/* RGP_E_CONFIG when a number is not finite, the margin is negative, the borders do not rise, or the
 * margins of two neighbouring borders meet within the band between them. */
rgp_status rgp_bands_check(const rgp_bands_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_bands_fault(const rgp_bands_config *config);

void rgp_bands_reset(rgp_bands_state *state);

/* The part of rgp_bands_step() for when the quantity is not well inside the band that it was in. */
uint32_t rgp_bands_move(const rgp_bands_config *config, rgp_bands_state *state, float value);

/* The band's number as a float, so that it travels like any value. dt in seconds; 0 steps no state. */
static inline rgp_reading rgp_bands_step(const rgp_bands_config *config, rgp_bands_state *state, rgp_reading in,
                                         float dt)
{
    uint32_t k = state->band;
    if (rgp_usable(in.quality) && dt > 0.0f) {
        const float *const border = config->border + k;
        const bool inside =
            state->known && (k == config->borders || in.value < border[0]) && (k == 0 || in.value > border[-1]);
        if (!inside) {
            k = rgp_bands_move(config, state, in.value);
        }
    }
    return rgp_reading_of((float)k, in.quality);
}

RGP_DECLARATIONS_END

#endif
