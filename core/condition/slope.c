/* slope (filtered derivative): the check of its settings, and its reset. */
#include "rigpulse/condition/slope.h"

rgp_status rgp_slope_check(const rgp_slope_config *config)
{
    return config->time_constant > 0.0f && config->time_constant <= 1e6f ? RGP_OK : RGP_E_CONFIG;
}

void rgp_slope_reset(rgp_slope_state *state)
{
    *state = (rgp_slope_state){0};
}
