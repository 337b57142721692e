#include "rigpulse/condition/scale.h"

rp_status rp_scale_check(const rp_scale_config *config)
{
    return rp_finite(config->gain) && rp_finite(config->offset) && config->gain != 0.0f ? RP_OK : RP_E_CONFIG;
}
