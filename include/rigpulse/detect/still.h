/* still (standstill detector): true when a quantity has stayed where it is for a time.
 *
 * It counts as moving when it leaves, by more than `within`, the value that it had when it last moved. On a bad reading
 * the time does not go on, and the last answer stands with the bad quality. */
#ifndef RIGPULSE_DETECT_STILL_H
#define RIGPULSE_DETECT_STILL_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

#define RGP_STILL_TIME_MAX 1e6f

typedef struct rgp_still_config {
    float time;   /* seconds; above 0, up to RGP_STILL_TIME_MAX */
    float within; /* in the quantity's unit; 0 or more */
} rgp_still_config;

typedef struct rgp_still_state {
    uint64_t since_us;
    float at;
    uint32_t known;
} rgp_still_state;

/* RGP_E_CONFIG when a number is outside its range. */
rgp_status rgp_still_check(const rgp_still_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_still_fault(const rgp_still_config *config);

void rgp_still_reset(rgp_still_state *state);

/* 1 for true, 0 for false. dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_still_step(const rgp_still_config *config, rgp_still_state *state, rgp_reading in,
                                         float dt)
{
    if (rgp_usable(in.quality) && dt > 0.0f) {
        const float away = in.value - state->at;
        if (!state->known || away > config->within || away < -config->within) {
            state->known = 1;
            state->at = in.value;
            state->since_us = 0;
        } else {
            state->since_us += rgp_microseconds(dt);
        }
    }
    const bool is = state->known && state->since_us >= rgp_microseconds(config->time);
    return rgp_reading_of(is ? 1.0f : 0.0f, in.quality);
}

RGP_DECLARATIONS_END

#endif
