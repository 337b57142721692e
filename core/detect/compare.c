/* compare (comparator with hysteresis): the check of its settings, and its reset. */
#include "rigpulse/detect/compare.h"

#include "rigpulse/numeric.h"
#include "rigpulse/inside/settings.h"

const char *rgp_compare_fault(const rgp_compare_config *c)
{
    return RGP_FAULT_OF(compare);
}

rgp_status rgp_compare_check(const rgp_compare_config *config)
{
    return rgp_compare_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_compare_reset(rgp_compare_state *state)
{
    state->is = 0;
}
