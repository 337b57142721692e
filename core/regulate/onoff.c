#include "rigpulse/regulate/onoff.h"

static bool a_time(float x)
{
    return x >= 0.0f && x <= RP_ONOFF_TIME_MAX;
}

rp_status rp_onoff_check(const rp_onoff_config *c)
{
    const bool limits = rp_finite(c->low) && rp_finite(c->high) && c->low < c->high;
    const bool margin = rp_finite(c->margin) && c->margin >= 0.0f;
    return limits && margin && a_time(c->least_on) && a_time(c->least_off) && c->reverse <= 1 ? RP_OK : RP_E_CONFIG;
}
