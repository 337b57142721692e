/* slope (filtered derivative): the check of its settings, and its reset. */
#include "rigpulse/condition/slope.h"

const char *rgp_slope_fault(const rgp_slope_config *c)
{
    return !(c->time_constant > 0.0f && c->time_constant <= 1e6f)
               ? RGP_WORDS("time_constant: seconds, above 0, at most 1e6")
               : NULL;
}

rgp_status rgp_slope_check(const rgp_slope_config *config)
{
    return rgp_slope_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_slope_reset(rgp_slope_state *state)
{
    *state = (rgp_slope_state){0};
}
