#include "rigpulse/condition/divider.h"

#include <math.h>

rp_status rp_divider_check(const rp_divider_config *config)
{
    const float all[] = {config->fixed, config->full, config->reference, config->supply};
    for (uint32_t i = 0; i < 4; i++) {
        if (!rp_finite(all[i]) || !(all[i] > 0.0f)) {
            return RP_E_CONFIG;
        }
    }
    return config->side <= RP_DIVIDER_FIXED_BELOW ? RP_OK : RP_E_CONFIG;
}

float rp_divider_best(float least, float greatest)
{
    return least > 0.0f && greatest > least && rp_finite(greatest) ? sqrtf(least) * sqrtf(greatest) : 0.0f;
}

float rp_divider_share(float fixed, float least, float greatest)
{
    return fixed > 0.0f ? greatest / (greatest + fixed) - least / (least + fixed) : 0.0f;
}
