/* root (square root): the check of its settings. */
#include "rigpulse/condition/root.h"
#include "rigpulse/inside/settings.h"

const char *rgp_root_fault(const rgp_root_config *c)
{
    return RGP_FAULT_OF(root);
}

rgp_status rgp_root_check(const rgp_root_config *config)
{
    return rgp_root_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
