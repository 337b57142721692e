/* still (standstill detector): the check of its settings, and its reset. */
#include "rigpulse/detect/still.h"
#include "rigpulse/inside/settings.h"

const char *rgp_still_fault(const rgp_still_config *c)
{
    return RGP_FAULT_OF(still);
}

rgp_status rgp_still_check(const rgp_still_config *config)
{
    return rgp_still_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_still_reset(rgp_still_state *state)
{
    *state = (rgp_still_state){0};
}
