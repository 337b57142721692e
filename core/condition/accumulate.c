#include "rigpulse/condition/accumulate.h"

rp_status rp_accumulate_check(const rp_accumulate_config *config)
{
    return rp_finite(config->gain) && config->gain != 0.0f ? RP_OK : RP_E_CONFIG;
}

void rp_accumulate_reset(rp_accumulate_state *state)
{
    *state = (rp_accumulate_state){0};
}
