/* power (power law): the check of its settings. */
#include "rigpulse/condition/power.h"

const char *rgp_power_fault(const rgp_power_config *c)
{
    return !(rgp_finite(c->at_one))                 ? RGP_WORDS("at_one: a number")
           : !(rgp_finite(c->one) && c->one > 0.0f) ? RGP_WORDS("one: above 0")
           : !(c->exponent >= -20.0f && c->exponent <= 20.0f && c->exponent != 0.0f)
               ? RGP_WORDS("exponent: -20 to 20, not 0")
               : NULL;
}

rgp_status rgp_power_check(const rgp_power_config *config)
{
    return rgp_power_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
