/* accumulate (integrator): the check of its settings, and its reset. */
#include "rigpulse/condition/accumulate.h"

rgp_status rgp_accumulate_check(const rgp_accumulate_config *config)
{
    return rgp_finite(config->gain) && config->gain != 0.0f ? RGP_OK : RGP_E_CONFIG;
}

void rgp_accumulate_reset(rgp_accumulate_state *state)
{
    *state = (rgp_accumulate_state){0};
}
