/* power (power law): the check of its settings. */
#include "rigpulse/condition/power.h"

rgp_status rgp_power_check(const rgp_power_config *config)
{
    const float e = config->exponent;
    return rgp_finite(config->at_one) && rgp_finite(config->one) && config->one > 0.0f && e >= -20.0f && e <= 20.0f &&
                   e != 0.0f
               ? RGP_OK
               : RGP_E_CONFIG;
}
