/* accumulate (integrator): the check of its settings, and its reset. */
#include "rigpulse/condition/accumulate.h"
#include "rigpulse/inside/settings.h"

const char *rgp_accumulate_fault(const rgp_accumulate_config *c)
{
    return RGP_FAULT_OF(accumulate);
}

rgp_status rgp_accumulate_check(const rgp_accumulate_config *config)
{
    return rgp_accumulate_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_accumulate_reset(rgp_accumulate_state *state)
{
    *state = (rgp_accumulate_state){0};
}
