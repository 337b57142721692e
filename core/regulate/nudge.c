/* nudge (incremental controller): the check of its settings, and its reset. */
#include "rigpulse/regulate/nudge.h"

rgp_status rgp_nudge_check(const rgp_nudge_config *c)
{
    const bool limits = rgp_finite(c->low) && rgp_finite(c->high) && c->low < c->high;
    const bool step = rgp_finite(c->step) && c->step > 0.0f && rgp_finite(c->within) && c->within >= 0.0f;
    return limits && step && c->pace > 0.0f && c->pace <= RGP_NUDGE_PACE_MAX && c->reverse <= 1 ? RGP_OK : RGP_E_CONFIG;
}
