/* moved (deviation from a slow baseline): the check of its settings, and its reset. */
#include "rigpulse/detect/moved.h"

rgp_status rgp_moved_check(const rgp_moved_config *config)
{
    const bool sound = rgp_finite(config->amount) && config->amount > 0.0f && config->margin >= 0.0f &&
                       config->margin <= config->amount && config->time_constant > 0.0f &&
                       config->time_constant <= 1e6f;
    return sound ? RGP_OK : RGP_E_CONFIG;
}

void rgp_moved_reset(rgp_moved_state *state)
{
    *state = (rgp_moved_state){0};
}
