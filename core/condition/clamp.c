#include "rigpulse/condition/clamp.h"

rp_status rp_clamp_check(const rp_clamp_config *config)
{
    return rp_finite(config->low) && rp_finite(config->high) && config->low < config->high ? RP_OK : RP_E_CONFIG;
}
