#include "rigpulse/detect/dithers.h"

const char *rgp_dithers_fault(const rgp_dithers_config *config)
{
    return rgp_finite(config->least) && config->least > 0.0f ? NULL : RGP_WORDS("a setting is out of its range");
}

rgp_status rgp_dithers_check(const rgp_dithers_config *config)
{
    return rgp_dithers_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_dithers_reset(rgp_dithers_state *state)
{
    *state = (rgp_dithers_state){0};
}
