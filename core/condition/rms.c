/* rms (root mean square): the check of its settings, and its reset. */
#include "rigpulse/condition/rms.h"
#include "rigpulse/inside/settings.h"

const char *rgp_rms_fault(const rgp_rms_config *c)
{
    return RGP_FAULT_OF(rms);
}

rgp_status rgp_rms_check(const rgp_rms_config *config)
{
    return rgp_rms_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_rms_reset(rgp_rms_state *state)
{
    *state = (rgp_rms_state){0};
}
