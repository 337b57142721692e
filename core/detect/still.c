#include "rigpulse/detect/still.h"

rp_status rp_still_check(const rp_still_config *config)
{
    const bool sound =
        config->time > 0.0f && config->time <= RP_STILL_TIME_MAX && rp_finite(config->within) && config->within >= 0.0f;
    return sound ? RP_OK : RP_E_CONFIG;
}

void rp_still_reset(rp_still_state *state)
{
    *state = (rp_still_state){0};
}
