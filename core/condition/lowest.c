/* lowest: the least reading of a moving window. */
#include "rigpulse/condition/lowest.h"
#include "rigpulse/inside/settings.h"

const char *rgp_lowest_fault(const rgp_lowest_config *c)
{
    return RGP_FAULT_OF(lowest);
}

rgp_status rgp_lowest_check(const rgp_lowest_config *config)
{
    return rgp_lowest_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_lowest_reset(rgp_lowest_state *state)
{
    *state = (rgp_lowest_state){0};
}

rgp_reading rgp_lowest_step(const rgp_lowest_config *config, rgp_lowest_state *state, rgp_reading in, float dt)
{
    return rgp_window_step(state, config->time, in, dt, -1.0f);
}
