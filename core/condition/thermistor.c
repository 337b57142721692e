/* Thermistors by the beta and the Steinhart-Hart equation: the check of its settings. */
#include "rigpulse/condition/thermistor.h"
#include "rigpulse/inside/settings.h"

const char *rgp_beta_fault(const rgp_beta_config *c)
{
    return RGP_FAULT_OF(beta);
}

rgp_status rgp_beta_check(const rgp_beta_config *config)
{
    return rgp_beta_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

const char *rgp_steinhart_fault(const rgp_steinhart_config *c)
{
    return RGP_FAULT_OF(steinhart);
}

rgp_status rgp_steinhart_check(const rgp_steinhart_config *config)
{
    return rgp_steinhart_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
