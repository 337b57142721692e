/* moved (deviation from a slow baseline): the check of its settings, and its reset. */
#include "rigpulse/detect/moved.h"
#include "rigpulse/inside/settings.h"

const char *rgp_moved_fault(const rgp_moved_config *c)
{
    const char *fault = RGP_FAULT_OF(moved);
    return fault ? fault : c->margin <= c->amount ? NULL : RGP_WORDS("margin: 0 to amount");
}

rgp_status rgp_moved_check(const rgp_moved_config *config)
{
    return rgp_moved_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_moved_reset(rgp_moved_state *state)
{
    *state = (rgp_moved_state){0};
}
