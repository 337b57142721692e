#include "rigpulse/condition/wrap.h"

rp_status rp_wrap_check(const rp_wrap_config *config)
{
    return rp_finite(config->turn) && config->turn > 0.0f && rp_finite(config->low) ? RP_OK : RP_E_CONFIG;
}
