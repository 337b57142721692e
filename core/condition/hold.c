#include "rigpulse/condition/hold.h"

rp_status rp_hold_check(const rp_hold_config *config)
{
    return config->time > 0.0f && config->time <= 1e6f ? RP_OK : RP_E_CONFIG;
}

void rp_hold_reset(rp_hold_state *state)
{
    *state = (rp_hold_state){0};
}

rp_reading rp_hold_bridge(const rp_hold_config *config, rp_hold_state *state, rp_reading in, float dt)
{
    state->away_us += rp_microseconds(dt);
    state->known = state->known && state->away_us <= rp_microseconds(config->time);
    return state->known ? (rp_reading){state->value, RP_HELD} : in;
}
