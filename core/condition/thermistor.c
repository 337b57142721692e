#include "rigpulse/condition/thermistor.h"

rp_status rp_beta_check(const rp_beta_config *config)
{
    return config->beta >= 100.0f && config->beta <= 20000.0f && rp_finite(config->at) && config->at > 0.0f &&
                   config->celsius >= -273.0f && config->celsius <= 1000.0f
               ? RP_OK
               : RP_E_CONFIG;
}

rp_status rp_steinhart_check(const rp_steinhart_config *config)
{
    return rp_finite(config->a) && rp_finite(config->b) && rp_finite(config->c) && config->b != 0.0f &&
                   rp_finite(config->ohms) && config->ohms > 0.0f
               ? RP_OK
               : RP_E_CONFIG;
}
