/* slope (filtered derivative): the check of its settings, and its reset. */
#include "rigpulse/condition/slope.h"
#include "rigpulse/inside/settings.h"

const char *rgp_slope_fault(const rgp_slope_config *c)
{
    return RGP_FAULT_OF(slope);
}

rgp_status rgp_slope_check(const rgp_slope_config *config)
{
    return rgp_slope_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_slope_reset(rgp_slope_state *state)
{
    *state = (rgp_slope_state){0};
}
