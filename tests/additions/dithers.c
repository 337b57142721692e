#include "rigpulse/detect/dithers.h"

rgp_status rgp_dithers_check(const rgp_dithers_config *config)
{
    return rgp_finite(config->least) && config->least > 0.0f ? RGP_OK : RGP_E_CONFIG;
}

void rgp_dithers_reset(rgp_dithers_state *state)
{
    *state = (rgp_dithers_state){0};
}
