/* lasts (on-delay): the check of its settings, and its reset. */
#include "rigpulse/detect/lasts.h"
#include "rigpulse/inside/settings.h"

const char *rgp_lasts_fault(const rgp_lasts_config *c)
{
    return RGP_FAULT_OF(lasts);
}

rgp_status rgp_lasts_check(const rgp_lasts_config *config)
{
    return rgp_lasts_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_lasts_reset(rgp_lasts_state *state)
{
    state->since_us = 0;
    state->is_true = 0;
    state->is = 0;
}
