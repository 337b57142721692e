#include "rigpulse/condition/average.h"

rp_status rp_average_check(const rp_average_config *config)
{
    return config->window >= 2 && config->window <= RP_AVERAGE_WINDOW_MAX ? RP_OK : RP_E_CONFIG;
}

void rp_average_reset(rp_average_state *state)
{
    state->filled = state->next = state->missed = state->reserved = 0;
    state->sum = 0.0f;
}

void rp_average_take(const rp_average_config *config, rp_average_state *state, float value)
{
    float *const place = &state->kept[state->next];
    state->missed = 0;
    if (state->filled < config->window) {
        state->filled++;
        state->sum += value;
    } else {
        state->sum += value - *place;
    }
    *place = value;
    if (++state->next >= config->window) {
        state->next = 0;
        state->sum = 0.0f;
        for (uint32_t i = 0; i < state->filled; i++) {
            state->sum += state->kept[i];
        }
    }
}
