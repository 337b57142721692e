/* on-off (two-position controller with hysteresis): the check of its settings, and its reset. */
#include "rigpulse/regulate/onoff.h"

const char *rgp_onoff_fault(const rgp_onoff_config *c)
{
    return !(rgp_finite(c->margin) && c->margin >= 0.0f)                   ? RGP_WORDS("margin: 0 or more")
           : !(c->least_on >= 0.0f && c->least_on <= RGP_ONOFF_TIME_MAX)   ? RGP_WORDS("least_on: seconds, 0 to 1e6")
           : !(c->least_off >= 0.0f && c->least_off <= RGP_ONOFF_TIME_MAX) ? RGP_WORDS("least_off: seconds, 0 to 1e6")
           : !(rgp_finite(c->low))                                         ? RGP_WORDS("low: a number")
           : !(rgp_finite(c->high) && c->low < c->high)                    ? RGP_WORDS("high: above low")
           : !(c->reverse <= 1)                                            ? RGP_WORDS("reverse: 0 or 1")
                                                                           : NULL;
}

rgp_status rgp_onoff_check(const rgp_onoff_config *config)
{
    return rgp_onoff_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
