/* on-off (two-position controller with hysteresis): the check of its settings, and its reset. */
#include "rigpulse/regulate/onoff.h"

static bool a_time(float x)
{
    return x >= 0.0f && x <= RGP_ONOFF_TIME_MAX;
}

rgp_status rgp_onoff_check(const rgp_onoff_config *c)
{
    const bool limits = rgp_finite(c->low) && rgp_finite(c->high) && c->low < c->high;
    const bool margin = rgp_finite(c->margin) && c->margin >= 0.0f;
    return limits && margin && a_time(c->least_on) && a_time(c->least_off) && c->reverse <= 1 ? RGP_OK : RGP_E_CONFIG;
}
