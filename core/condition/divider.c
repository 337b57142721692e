/* divider (voltage divider with one unknown resistor): the check of its settings. */
#include "rigpulse/condition/divider.h"

#include <math.h>

rgp_status rgp_divider_check(const rgp_divider_config *config)
{
    const float all[] = {config->fixed, config->full, config->reference, config->supply};
    for (uint32_t i = 0; i < 4; i++) {
        if (!rgp_finite(all[i]) || !(all[i] > 0.0f)) {
            return RGP_E_CONFIG;
        }
    }
    return config->side <= RGP_DIVIDER_FIXED_BELOW ? RGP_OK : RGP_E_CONFIG;
}

float rgp_divider_best(float least, float greatest)
{
    return least > 0.0f && greatest > least && rgp_finite(greatest) ? sqrtf(least) * sqrtf(greatest) : 0.0f;
}

float rgp_divider_share(float fixed, float least, float greatest)
{
    return fixed > 0.0f ? greatest / (greatest + fixed) - least / (least + fixed) : 0.0f;
}
