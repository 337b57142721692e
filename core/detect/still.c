/* still (standstill detector): the check of its settings, and its reset. */
#include "rigpulse/detect/still.h"

rgp_status rgp_still_check(const rgp_still_config *config)
{
    const bool sound = config->time > 0.0f && config->time <= RGP_STILL_TIME_MAX && rgp_finite(config->within) &&
                       config->within >= 0.0f;
    return sound ? RGP_OK : RGP_E_CONFIG;
}

void rgp_still_reset(rgp_still_state *state)
{
    *state = (rgp_still_state){0};
}
