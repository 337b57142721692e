#include "rigpulse/detect/dithers.h"

rp_status rp_dithers_check(const rp_dithers_config *config)
{
    return rp_finite(config->least) && config->least > 0.0f ? RP_OK : RP_E_CONFIG;
}

void rp_dithers_reset(rp_dithers_state *state)
{
    *state = (rp_dithers_state){0};
}
