/* nudge (incremental controller): the check of its settings, and its reset. */
#include "rigpulse/regulate/nudge.h"

const char *rgp_nudge_fault(const rgp_nudge_config *c)
{
    return !(rgp_finite(c->step) && c->step > 0.0f)             ? RGP_WORDS("step: above 0")
           : !(c->pace > 0.0f && c->pace <= RGP_NUDGE_PACE_MAX) ? RGP_WORDS("pace: seconds, above 0, at most 1e6")
           : !(rgp_finite(c->within) && c->within >= 0.0f)      ? RGP_WORDS("within: 0 or more")
           : !(rgp_finite(c->low))                              ? RGP_WORDS("low: a number")
           : !(rgp_finite(c->high) && c->low < c->high)         ? RGP_WORDS("high: above low")
           : !(c->reverse <= 1)                                 ? RGP_WORDS("reverse: 0 or 1")
                                                                : NULL;
}

rgp_status rgp_nudge_check(const rgp_nudge_config *config)
{
    return rgp_nudge_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
