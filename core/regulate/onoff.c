/* on-off (two-position controller with hysteresis): the check of its settings, and its reset. */
#include "rigpulse/regulate/onoff.h"
#include "rigpulse/inside/settings.h"

const char *rgp_onoff_fault(const rgp_onoff_config *c)
{
    const char *fault = RGP_FAULT_OF(onoff);
    return fault ? fault : c->low < c->high ? NULL : RGP_WORDS("high: above low");
}

rgp_status rgp_onoff_check(const rgp_onoff_config *config)
{
    return rgp_onoff_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
