/* divider (voltage divider with one unknown resistor): the check of its settings. */
#include "rigpulse/condition/divider.h"
#include "rigpulse/inside/settings.h"

#include <math.h>

const char *rgp_divider_fault(const rgp_divider_config *c)
{
    return RGP_FAULT_OF(divider);
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
