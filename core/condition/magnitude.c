/* magnitude (absolute value): the check of its settings. */
#include "rigpulse/condition/magnitude.h"
#include "rigpulse/inside/settings.h"

const char *rgp_magnitude_fault(const rgp_magnitude_config *c)
{
    return RGP_FAULT_OF(magnitude);
}

rgp_status rgp_magnitude_check(const rgp_magnitude_config *config)
{
    return rgp_magnitude_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
