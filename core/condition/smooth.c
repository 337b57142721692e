#include "rigpulse/condition/smooth.h"

rp_status rp_smooth_check(const rp_smooth_config *config)
{
    return config->time_constant > 0.0f && config->time_constant <= 1e6f ? RP_OK : RP_E_CONFIG;
}

void rp_smooth_reset(rp_smooth_state *state)
{
    *state = (rp_smooth_state){0};
}

void rp_smooth_adapt(const rp_smooth_config *config, rp_smooth_state *state, float value, float dt)
{
    if (state->dt <= 0.0f) {
        state->output = value;
    }
    state->dt = dt;
    const bool gap = state->gap_us > 0;
    state->time_constant = gap ? 0.0f : config->time_constant;
    state->share = rp_decay((gap ? dt + rp_seconds(state->gap_us) : dt) / config->time_constant);
    state->gap_us = 0;
}
