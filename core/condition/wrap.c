/* wrap (angle brought into one turn): the check of its settings. */
#include "rigpulse/condition/wrap.h"

const char *rgp_wrap_fault(const rgp_wrap_config *c)
{
    return !(rgp_finite(c->turn) && c->turn > 0.0f) ? RGP_WORDS("turn: above 0")
           : !(rgp_finite(c->low))                  ? RGP_WORDS("low: a number")
                                                    : NULL;
}

rgp_status rgp_wrap_check(const rgp_wrap_config *config)
{
    return rgp_wrap_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
