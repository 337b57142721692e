/* wrap (angle brought into one turn): the check of its settings. */
#include "rigpulse/condition/wrap.h"
#include "rigpulse/inside/settings.h"

const char *rgp_wrap_fault(const rgp_wrap_config *c)
{
    return RGP_FAULT_OF(wrap);
}

rgp_status rgp_wrap_check(const rgp_wrap_config *config)
{
    return rgp_wrap_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
