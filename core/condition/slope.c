#include "rigpulse/condition/slope.h"

rp_status rp_slope_check(const rp_slope_config *config)
{
    return config->time_constant > 0.0f && config->time_constant <= 1e6f ? RP_OK : RP_E_CONFIG;
}

void rp_slope_reset(rp_slope_state *state)
{
    *state = (rp_slope_state){0};
}
