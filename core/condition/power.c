#include "rigpulse/condition/power.h"

rp_status rp_power_check(const rp_power_config *config)
{
    const float e = config->exponent;
    return rp_finite(config->at_one) && rp_finite(config->one) && config->one > 0.0f && e >= -20.0f && e <= 20.0f &&
                   e != 0.0f
               ? RP_OK
               : RP_E_CONFIG;
}
