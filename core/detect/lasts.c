/* lasts (on-delay): the check of its settings, and its reset. */
#include "rigpulse/detect/lasts.h"

rgp_status rgp_lasts_check(const rgp_lasts_config *config)
{
    return config->time > 0.0f && config->time <= RGP_LASTS_TIME_MAX ? RGP_OK : RGP_E_CONFIG;
}

void rgp_lasts_reset(rgp_lasts_state *state)
{
    state->since_us = 0;
    state->is_true = 0;
    state->is = 0;
}
