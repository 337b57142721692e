#include "rigpulse/condition/unwrap.h"

rp_status rp_unwrap_check(const rp_unwrap_config *config)
{
    return rp_finite(config->turn) && config->turn > 0.0f ? RP_OK : RP_E_CONFIG;
}

void rp_unwrap_reset(rp_unwrap_state *state)
{
    *state = (rp_unwrap_state){0};
}
