/* nudge (incremental controller): the check of its settings, and its reset. */
#include "rigpulse/regulate/nudge.h"
#include "rigpulse/inside/settings.h"

const char *rgp_nudge_fault(const rgp_nudge_config *c)
{
    const char *fault = RGP_FAULT_OF(nudge);
    return fault ? fault : c->low < c->high ? NULL : RGP_WORDS("high: above low");
}

rgp_status rgp_nudge_check(const rgp_nudge_config *config)
{
    return rgp_nudge_fault(config) ? RGP_E_CONFIG : RGP_OK;
}
