/* zero (tare, offset learned while still): the check of its settings, its reset, learning, and what survives a power
 * cycle. */
#include "rigpulse/condition/zero.h"
#include "rigpulse/inside/settings.h"

#include <math.h>

const char *rgp_zero_fault(const rgp_zero_config *c)
{
    return RGP_FAULT_OF(zero);
}

rgp_status rgp_zero_check(const rgp_zero_config *config)
{
    return rgp_zero_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_zero_reset(rgp_zero_state *state)
{
    *state = (rgp_zero_state){0};
}

/* The tries stay: they count windows. */
static void begin_window(rgp_zero_state *state)
{
    state->phase = RGP_ZERO_WATCHING;
    state->count = state->first_count = 0;
    state->elapsed_us = 0;
    state->mean = state->squares = 0.0f;
}

/* The mean of the second half follows from that of the whole and that of the first. */
static void end_window(const rgp_zero_config *config, rgp_zero_state *state)
{
    const uint32_t n = state->count, half = state->first_count;
    const float later =
        n > half ? (state->mean * (float)n - state->first * (float)half) / (float)(n - half) : state->mean;
    state->noise = n > 1 ? sqrtf(state->squares / (float)(n - 1)) : 0.0f;
    state->moved = later > state->first ? later - state->first : state->first - later;
    if (n >= 4 && state->noise <= config->spread && state->moved <= config->drift) {
        state->offset = state->mean;
        state->error = state->noise / sqrtf((float)n);
        state->phase = RGP_ZERO_LEARNED;
        state->news = 1;
    } else if (++state->tries >= config->tries) {
        state->phase = RGP_ZERO_GAVE_UP;
        state->news = 1;
    } else {
        begin_window(state);
    }
}

/* Welford's recurrence: mean and squares are those of all readings so far, without their sum, which a float would
 * round. The first half of the window is that of its time, not of its readings. */
void rgp_zero_learn(const rgp_zero_config *config, rgp_zero_state *state, float value, rgp_quality quality, float dt)
{
    if (dt <= 0.0f || state->phase == RGP_ZERO_GAVE_UP) {
        return;
    }
    state->elapsed_us += rgp_microseconds(dt);
    if (state->phase == RGP_ZERO_WARMING) {
        if (state->elapsed_us > rgp_microseconds(config->warmup)) {
            begin_window(state);
        } else {
            return;
        }
    }
    if (!rgp_usable(quality)) {
        begin_window(state);
        return;
    }
    const float before = value - state->mean;
    state->count++;
    state->mean += before / (float)state->count;
    state->squares += before * (value - state->mean);
    const uint64_t window = rgp_microseconds(config->window);
    if (2u * state->elapsed_us <= window) {
        state->first = state->mean;
        state->first_count = state->count;
    }
    if (state->elapsed_us >= window) {
        end_window(config, state);
    }
}

bool rgp_zero_retain(const rgp_zero_state *state, rgp_retained *kept)
{
    *kept = (rgp_retained){.a = state->offset, .b = (float)state->base};
    return state->phase == RGP_ZERO_LEARNED;
}

bool rgp_zero_restore(rgp_zero_state *state, const rgp_retained *kept)
{
    if (!rgp_finite(kept->a) || !(kept->b >= -2147483648.0f && kept->b < 2147483648.0f)) {
        return false;
    }
    *state = (rgp_zero_state){.phase = RGP_ZERO_LEARNED, .offset = kept->a, .base = (int32_t)kept->b};
    return true;
}

rgp_learning rgp_zero_news(rgp_zero_state *state)
{
    const bool gave_up = state->phase == RGP_ZERO_GAVE_UP, over = gave_up || state->phase == RGP_ZERO_LEARNED;
    const rgp_learning news = {.what = (uint8_t)(!state->news ? RGP_LEARNING_ON
                                                 : gave_up    ? RGP_LEARNING_GAVE_UP
                                                              : RGP_LEARNING_DONE),
                               .going = !over,
                               .value = gave_up ? state->moved : (float)state->base + state->offset};
    state->news = 0;
    return news;
}

/* The base is a multiple of 256 near the first reading, so that what is left of a reading of 32 bits is small, and a
 * float holds it. */
rgp_reading rgp_zero_whole(const rgp_zero_config *config, rgp_zero_state *state, int32_t raw, rgp_quality quality,
                           float dt)
{
    if (state->phase != RGP_ZERO_LEARNED) {
        if (state->count == 0) {
            state->base = raw - (int32_t)((uint32_t)raw & 255u);
        }
        rgp_zero_learn(config, state, (float)((int64_t)raw - state->base), quality, dt);
    }
    if (state->phase != RGP_ZERO_LEARNED) {
        return (rgp_reading){(float)raw, rgp_worst(quality, RGP_LEARNING)};
    }
    return rgp_number(rgp_nearest_sum((int64_t)raw - state->base, 1.0f, -1, state->offset), quality);
}
