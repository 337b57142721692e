/* accumulate (integrator): the check of its settings, and its reset. */
#include "rigpulse/condition/accumulate.h"

const char *rgp_accumulate_fault(const rgp_accumulate_config *c)
{
    return !(rgp_finite(c->gain) && c->gain != 0.0f) ? RGP_WORDS("gain: not 0") : NULL;
}

rgp_status rgp_accumulate_check(const rgp_accumulate_config *config)
{
    return rgp_accumulate_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_accumulate_reset(rgp_accumulate_state *state)
{
    *state = (rgp_accumulate_state){0};
}
