/* highest: the greatest reading of a moving window. */
#include "rigpulse/condition/highest.h"
#include "rigpulse/inside/settings.h"

const char *rgp_highest_fault(const rgp_highest_config *c)
{
    return RGP_FAULT_OF(highest);
}

rgp_status rgp_highest_check(const rgp_highest_config *config)
{
    return rgp_highest_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_highest_reset(rgp_highest_state *state)
{
    *state = (rgp_highest_state){0};
}

rgp_reading rgp_highest_step(const rgp_highest_config *config, rgp_highest_state *state, rgp_reading in, float dt)
{
    return rgp_window_step(state, config->time, in, dt, 1.0f);
}
