/* hold (sample hold with a time limit): the check of its settings, and its reset. */
#include "rigpulse/condition/hold.h"
#include "rigpulse/inside/settings.h"

const char *rgp_hold_fault(const rgp_hold_config *c)
{
    return RGP_FAULT_OF(hold);
}

rgp_status rgp_hold_check(const rgp_hold_config *config)
{
    return rgp_hold_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_hold_reset(rgp_hold_state *state)
{
    *state = (rgp_hold_state){0};
}

rgp_reading rgp_hold_bridge(const rgp_hold_config *config, rgp_hold_state *state, rgp_reading in, float dt)
{
    state->away_us += rgp_microseconds(dt);
    state->known = state->known && state->away_us <= rgp_microseconds(config->time);
    return state->known ? (rgp_reading){state->value, RGP_HELD} : in;
}
