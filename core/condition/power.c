/* power (power law): the check of its settings. */
#include "rigpulse/condition/power.h"
#include "rigpulse/inside/settings.h"

const char *rgp_power_fault(const rgp_power_config *c)
{
    return RGP_FAULT_OF(power);
}

rgp_status rgp_power_check(const rgp_power_config *config)
{
    return rgp_power_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
