/* still (standstill detector): the check of its settings, and its reset. */
#include "rigpulse/detect/still.h"

const char *rgp_still_fault(const rgp_still_config *c)
{
    return !(c->time > 0.0f && c->time <= RGP_STILL_TIME_MAX) ? RGP_WORDS("time: seconds, above 0, at most 1e6")
           : !(rgp_finite(c->within) && c->within >= 0.0f)    ? RGP_WORDS("within: 0 or more")
                                                              : NULL;
}

rgp_status rgp_still_check(const rgp_still_config *config)
{
    return rgp_still_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_still_reset(rgp_still_state *state)
{
    *state = (rgp_still_state){0};
}
