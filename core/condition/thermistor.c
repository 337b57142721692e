/* Thermistors by the beta and the Steinhart-Hart equation: the check of its settings. */
#include "rigpulse/condition/thermistor.h"

const char *rgp_beta_fault(const rgp_beta_config *c)
{
    return !(c->beta >= 100.0f && c->beta <= 20000.0f)         ? RGP_WORDS("beta: kelvin, 100 to 20000")
           : !(rgp_finite(c->at) && c->at > 0.0f)              ? RGP_WORDS("at: above 0")
           : !(c->celsius >= -273.0f && c->celsius <= 1000.0f) ? RGP_WORDS("celsius: -273 to 1000")
                                                               : NULL;
}

rgp_status rgp_beta_check(const rgp_beta_config *config)
{
    return rgp_beta_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

const char *rgp_steinhart_fault(const rgp_steinhart_config *c)
{
    return !(rgp_finite(c->a))                        ? RGP_WORDS("a: a number")
           : !(rgp_finite(c->b) && c->b != 0.0f)      ? RGP_WORDS("b: not 0")
           : !(rgp_finite(c->c))                      ? RGP_WORDS("c: a number")
           : !(rgp_finite(c->ohms) && c->ohms > 0.0f) ? RGP_WORDS("ohms: above 0")
                                                      : NULL;
}

rgp_status rgp_steinhart_check(const rgp_steinhart_config *config)
{
    return rgp_steinhart_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
