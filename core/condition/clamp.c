/* clamp (limiter of a value): the check of its settings. */
#include "rigpulse/condition/clamp.h"

const char *rgp_clamp_fault(const rgp_clamp_config *c)
{
    return !(rgp_finite(c->low))                        ? RGP_WORDS("low: a number")
           : !(rgp_finite(c->high) && c->low < c->high) ? RGP_WORDS("high: above low")
                                                        : NULL;
}

rgp_status rgp_clamp_check(const rgp_clamp_config *config)
{
    return rgp_clamp_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
