/* deadband (dead zone): the check of its settings. */
#include "rigpulse/condition/deadband.h"
#include "rigpulse/inside/settings.h"

const char *rgp_deadband_fault(const rgp_deadband_config *c)
{
    return RGP_FAULT_OF(deadband);
}

rgp_status rgp_deadband_check(const rgp_deadband_config *config)
{
    return rgp_deadband_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
