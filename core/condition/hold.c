#include "rigpulse/condition/hold.h"

rp_status rp_hold_check(const rp_hold_config *config)
{
    return config->time > 0.0f && config->time <= 1e6f ? RP_OK : RP_E_CONFIG;
}

void rp_hold_reset(rp_hold_state *state)
{
    *state = (rp_hold_state){0};
}

rp_reading rp_hold_bridge(rp_hold_state *state, float value, rp_quality quality, float dt)
{
    const uint64_t passed = rp_microseconds(dt);
    if (state->left_us == 0) {
        return (rp_reading){value, quality};
    }
    const bool holds = passed <= state->left_us;
    state->left_us = holds ? state->left_us - passed : 0;
    return (rp_reading){state->value, holds ? (rp_quality)RP_HELD : quality};
}
