#include "rigpulse/condition/smooth.h"

rp_status rp_smooth_check(const rp_smooth_config *config)
{
    return config->time_constant > 0.0f && config->time_constant <= 1e6f ? RP_OK : RP_E_CONFIG;
}

void rp_smooth_reset(rp_smooth_state *state)
{
    *state = (rp_smooth_state){0};
}
