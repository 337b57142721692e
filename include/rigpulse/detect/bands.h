/* bands: which of up to 16 neighbouring bands a quantity lies in, counted from 0 for the lowest.
 *
 * Each border belongs to one of its two bands, as in "low below 3" or "high above 9": that band is
 * entered exactly at the border and left only past it by the whole margin (as in compare.h). The first
 * usable reading is judged by the borders alone. On a bad reading the last band stands, with the bad
 * quality. */
#ifndef RIGPULSE_DETECT_BANDS_H
#define RIGPULSE_DETECT_BANDS_H

#include "rigpulse/reading.h"
#include "rigpulse/status.h"

#define RP_BANDS_BORDERS_MAX 15

/* Only the first `borders` places of border[] are read; RP_BANDS_CONFIG_BYTES(borders) bytes hold them. */
typedef struct rp_bands_config {
    uint16_t borders;                   /* 1 to 15 */
    uint16_t above;                     /* bit i: border i belongs to the band above it; else to the one below it */
    float margin;                       /* in the quantity's unit; 0 or more */
    float border[RP_BANDS_BORDERS_MAX]; /* rising */
} rp_bands_config;

#define RP_BANDS_CONFIG_BYTES(borders) (8u + 4u * (borders))

typedef struct rp_bands_state {
    uint8_t known;
    uint8_t band;
} rp_bands_state;

/* RP_E_CONFIG when a number is not finite, the margin is negative, the borders do not rise, or the
 * margins of two neighbouring borders meet within the band between them. */
rp_status rp_bands_check(const rp_bands_config *config);

void rp_bands_reset(rp_bands_state *state);

/* The part of rp_bands_step() for when the quantity is not well inside the band that it was in. */
uint32_t rp_bands_move(const rp_bands_config *config, rp_bands_state *state, float value);

/* The band's number as a float, so that it travels like any value. dt in seconds; 0 steps no state. */
static inline rp_reading rp_bands_step(const rp_bands_config *config, rp_bands_state *state, rp_reading in, float dt)
{
    uint32_t k = state->band;
    if (rp_usable(in.quality) && dt > 0.0f) {
        const float *const border = config->border + k;
        const bool inside =
            state->known && (k == config->borders || in.value < border[0]) && (k == 0 || in.value > border[-1]);
        if (!inside) {
            k = rp_bands_move(config, state, in.value);
        }
    }
    return (rp_reading){(float)k, in.quality};
}

#endif
