/* The inside of rigpulse/condition/despike.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_DESPIKE_H
#define RIGPULSE_INSIDE_CONDITION_DESPIKE_H

#include "rigpulse/condition/despike.h"

RGP_DECLARATIONS_BEGIN

/* Counts a bad reading; when the window has been missed whole it begins anew. */
void rgp_despike_miss(const rgp_despike_config *config, rgp_despike_state *state);

/* The part of rgp_despike_step() while the window fills, and on readings that do not `count`: the number. */
float rgp_despike_fill(const rgp_despike_config *config, rgp_despike_state *state, float value, bool counts);

static inline float rgp__lesser(float a, float b)
{
    return a < b ? a : b;
}

/* Its condition is not that of rgp__lesser(), from which compilers would make one branch that is often mispredicted. */
static inline float rgp__greater(float a, float b)
{
    return a > b ? a : b;
}

static inline float rgp__median_of_3(float a, float b, float c)
{
    return rgp__greater(rgp__lesser(a, b), rgp__lesser(rgp__greater(a, b), c));
}

/* Of two pairs the least and the greatest of all four cannot be in the middle of five. */
static inline float rgp__median_of_5(float a, float b, float c, float d, float e)
{
    const float low = rgp__greater(rgp__lesser(a, b), rgp__lesser(c, d));
    const float high = rgp__lesser(rgp__greater(a, b), rgp__greater(c, d));
    return rgp__median_of_3(low, high, e);
}

/* Puts a reading into the rising order from sorted[0] in place of the one that leaves, which is among them. */
static inline void rgp__despike_sort(float *sorted, uint32_t window, float leaves, float comes)
{
    float *const last = sorted + window - 1;
    float *at = sorted;
    while (*at < leaves) {
        at++;
    }
    if (comes > leaves) {
        for (; at < last && at[1] < comes; at++) {
            *at = at[1];
        }
    } else {
        for (; at > sorted && at[-1] > comes; at--) {
            *at = at[-1];
        }
    }
    *at = comes;
}

static inline rgp_reading rgp_despike_step(const rgp_despike_config *config, rgp_despike_state *state, rgp_reading in,
                                           float dt)
{
    const uint32_t window = config->window;
    const bool counts = rgp_usable(in.quality) && dt > 0.0f && in.value == in.value; /* what is in order has no NaN */
    if (!counts || state->filled < window) {
        if (!rgp_usable(in.quality) && dt > 0.0f) {
            rgp_despike_miss(config, state);
        }
        return rgp_reading_of(rgp_despike_fill(config, state, in.value, counts), in.quality);
    }
    float *const oldest = state->kept + state->next;
    const float leaves = *oldest;
    const uint32_t next = state->next + 1u;
    *oldest = in.value;
    state->next = (uint8_t)(next == window ? 0u : next);
    state->missed = 0;
    const float *const v = state->kept;
    if (window == 5) {
        return rgp_reading_of(rgp__median_of_5(v[0], v[1], v[2], v[3], v[4]), in.quality);
    }
    if (window == 3) {
        return rgp_reading_of(rgp__median_of_3(v[0], v[1], v[2]), in.quality);
    }
    rgp__despike_sort(state->kept + window, window, leaves, in.value);
    return rgp_reading_of(state->kept[window + window / 2], in.quality);
}

RGP_DECLARATIONS_END

#endif
