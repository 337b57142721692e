/* compare (comparator with hysteresis): the check of its settings, and its reset. */
#include "rigpulse/detect/compare.h"

#include "rigpulse/numeric.h"

const char *rgp_compare_fault(const rgp_compare_config *c)
{
    return !(rgp_finite(c->limit))                         ? RGP_WORDS("limit: a number")
           : !(rgp_finite(c->margin) && c->margin >= 0.0f) ? RGP_WORDS("margin: 0 or more")
           : !(c->side <= RGP_COMPARE_ABOVE)               ? RGP_WORDS("side: RGP_COMPARE_BELOW or RGP_COMPARE_ABOVE")
                                                           : NULL;
}

rgp_status rgp_compare_check(const rgp_compare_config *config)
{
    return rgp_compare_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_compare_reset(rgp_compare_state *state)
{
    state->is = 0;
}
