#include "rigpulse/detect/moved.h"

rp_status rp_moved_check(const rp_moved_config *config)
{
    const bool sound = rp_finite(config->amount) && config->amount > 0.0f && config->margin >= 0.0f &&
                       config->margin <= config->amount && config->time_constant > 0.0f &&
                       config->time_constant <= 1e6f;
    return sound ? RP_OK : RP_E_CONFIG;
}

void rp_moved_reset(rp_moved_state *state)
{
    *state = (rp_moved_state){0};
}
