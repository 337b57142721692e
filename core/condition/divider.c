/* divider (voltage divider with one unknown resistor): the check of its settings. */
#include "rigpulse/condition/divider.h"

#include <math.h>

const char *rgp_divider_fault(const rgp_divider_config *c)
{
    return !(rgp_finite(c->fixed) && c->fixed > 0.0f)           ? RGP_WORDS("fixed: above 0")
           : !(rgp_finite(c->full) && c->full > 0.0f)           ? RGP_WORDS("full: counts, above 0")
           : !(rgp_finite(c->reference) && c->reference > 0.0f) ? RGP_WORDS("reference: volts, above 0")
           : !(rgp_finite(c->supply) && c->supply > 0.0f)       ? RGP_WORDS("supply: volts, above 0")
           : !(c->side <= RGP_DIVIDER_FIXED_BELOW)
               ? RGP_WORDS("side: RGP_DIVIDER_FIXED_ABOVE or RGP_DIVIDER_FIXED_BELOW")
               : NULL;
}

rgp_status rgp_divider_check(const rgp_divider_config *config)
{
    return rgp_divider_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

float rgp_divider_best(float least, float greatest)
{
    return least > 0.0f && greatest > least && rgp_finite(greatest) ? sqrtf(least) * sqrtf(greatest) : 0.0f;
}

float rgp_divider_share(float fixed, float least, float greatest)
{
    return fixed > 0.0f ? greatest / (greatest + fixed) - least / (least + fixed) : 0.0f;
}
