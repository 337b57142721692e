#include "rigpulse/condition/hold.h"

rp_status rp_hold_check(const rp_hold_config *config)
{
    return config->time > 0.0f && config->time <= 1e6f ? RP_OK : RP_E_CONFIG;
}

void rp_hold_reset(rp_hold_state *state)
{
    *state = (rp_hold_state){0};
}
