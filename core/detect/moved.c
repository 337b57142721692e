/* moved (deviation from a slow baseline): the check of its settings, and its reset. */
#include "rigpulse/detect/moved.h"

const char *rgp_moved_fault(const rgp_moved_config *c)
{
    return !(rgp_finite(c->amount) && c->amount > 0.0f)     ? RGP_WORDS("amount: above 0")
           : !(c->margin >= 0.0f && c->margin <= c->amount) ? RGP_WORDS("margin: 0 to amount")
           : !(c->time_constant > 0.0f && c->time_constant <= 1e6f)
               ? RGP_WORDS("time_constant: seconds, above 0, at most 1e6")
               : NULL;
}

rgp_status rgp_moved_check(const rgp_moved_config *config)
{
    return rgp_moved_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_moved_reset(rgp_moved_state *state)
{
    *state = (rgp_moved_state){0};
}
