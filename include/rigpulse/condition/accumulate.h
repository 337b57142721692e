/* accumulate (integrator): a rate into a sum, by the trapezoid rule; the sum is compensated (Kahan, 1965), so that
 * hours at 1 kHz lose nothing in float. Begins at 0. Once a reading was bad the sum cannot be known any more: it stays
 * bad, with that quality, until it is reset. */
#ifndef RIGPULSE_CONDITION_ACCUMULATE_H
#define RIGPULSE_CONDITION_ACCUMULATE_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_accumulate_config {
    float gain; /* output units per input unit and second; not 0 */
} rgp_accumulate_config;

typedef struct rgp_accumulate_state {
    float sum, rest; /* what the sum has not been able to hold */
    float rate;      /* the last one */
    uint8_t known;
    rgp_quality lost;
} rgp_accumulate_state;

/* RGP_E_CONFIG when the gain is not finite or 0. */
rgp_status rgp_accumulate_check(const rgp_accumulate_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_accumulate_fault(const rgp_accumulate_config *config);

void rgp_accumulate_reset(rgp_accumulate_state *state);

/* dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_accumulate_step(const rgp_accumulate_config *config, rgp_accumulate_state *state,
                                              rgp_reading in, float dt)
{
    if (!rgp_usable(in.quality)) {
        state->lost = state->known ? in.quality : (rgp_quality)RGP_GOOD;
        return rgp_reading_of(state->sum, in.quality);
    }
    if (dt > 0.0f) {
        const float before = state->known ? state->rate : in.value;
        const float step = 0.5f * (before + in.value) * dt * config->gain + state->rest;
        const float sum = state->sum + step;
        state->rest = state->known ? step - (sum - state->sum) : 0.0f;
        state->sum = state->known && rgp_finite(sum) ? sum : state->sum;
        state->rate = in.value;
        state->known = 1;
    }
    return rgp_reading_of(state->sum, rgp_worst(in.quality, state->lost));
}

RGP_DECLARATIONS_END

#endif
