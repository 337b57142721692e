#include "rigpulse/regulate/nudge.h"

rp_status rp_nudge_check(const rp_nudge_config *c)
{
    const bool limits = rp_finite(c->low) && rp_finite(c->high) && c->low < c->high;
    const bool step = rp_finite(c->step) && c->step > 0.0f && rp_finite(c->within) && c->within >= 0.0f;
    return limits && step && c->pace > 0.0f && c->pace <= RP_NUDGE_PACE_MAX && c->reverse <= 1 ? RP_OK : RP_E_CONFIG;
}
