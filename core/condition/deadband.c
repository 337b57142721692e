/* deadband (dead zone): the check of its settings. */
#include "rigpulse/condition/deadband.h"

const char *rgp_deadband_fault(const rgp_deadband_config *c)
{
    return !(rgp_finite(c->width) && c->width >= 0.0f) ? RGP_WORDS("width: 0 or more") : NULL;
}

rgp_status rgp_deadband_check(const rgp_deadband_config *config)
{
    return rgp_deadband_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
