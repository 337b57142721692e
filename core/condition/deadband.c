#include "rigpulse/condition/deadband.h"

rp_status rp_deadband_check(const rp_deadband_config *config)
{
    return rp_finite(config->width) && config->width >= 0.0f ? RP_OK : RP_E_CONFIG;
}
