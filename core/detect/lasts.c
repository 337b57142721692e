#include "rigpulse/detect/lasts.h"

rp_status rp_lasts_check(const rp_lasts_config *config)
{
    return config->time > 0.0f && config->time <= RP_LASTS_TIME_MAX ? RP_OK : RP_E_CONFIG;
}

void rp_lasts_reset(rp_lasts_state *state)
{
    state->since_us = 0;
    state->is_true = 0;
    state->is = 0;
}
