/* clamp (limiter of a value): the check of its settings. */
#include "rigpulse/condition/clamp.h"
#include "rigpulse/inside/settings.h"

const char *rgp_clamp_fault(const rgp_clamp_config *c)
{
    const char *fault = RGP_FAULT_OF(clamp);
    return fault ? fault : c->low < c->high ? NULL : RGP_WORDS("high: above low");
}

rgp_status rgp_clamp_check(const rgp_clamp_config *config)
{
    return rgp_clamp_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
