/* Thermistors by the beta and the Steinhart-Hart equation: the check of its settings. */
#include "rigpulse/condition/thermistor.h"

rgp_status rgp_beta_check(const rgp_beta_config *config)
{
    return config->beta >= 100.0f && config->beta <= 20000.0f && rgp_finite(config->at) && config->at > 0.0f &&
                   config->celsius >= -273.0f && config->celsius <= 1000.0f
               ? RGP_OK
               : RGP_E_CONFIG;
}

rgp_status rgp_steinhart_check(const rgp_steinhart_config *config)
{
    return rgp_finite(config->a) && rgp_finite(config->b) && rgp_finite(config->c) && config->b != 0.0f &&
                   rgp_finite(config->ohms) && config->ohms > 0.0f
               ? RGP_OK
               : RGP_E_CONFIG;
}
