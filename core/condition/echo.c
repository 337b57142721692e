/* echo (time of flight of sound): the check of its settings. */
#include "rigpulse/condition/echo.h"

#include <math.h>

const char *rgp_echo_fault(const rgp_echo_config *c)
{
    return !(rgp_finite(c->seconds) && c->seconds > 0.0f)     ? RGP_WORDS("seconds: above 0")
           : !(rgp_finite(c->metre) && c->metre > 0.0f)       ? RGP_WORDS("metre: above 0")
           : !(c->celsius >= -100.0f && c->celsius <= 200.0f) ? RGP_WORDS("celsius: -100 to 200")
           : !(c->near >= 0.0f)                               ? RGP_WORDS("near: 0 or more")
           : !(rgp_finite(c->far) && c->far > c->near)        ? RGP_WORDS("far: above near")
                                                              : NULL;
}

rgp_status rgp_echo_check(const rgp_echo_config *config)
{
    return rgp_echo_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

float rgp_speed_of_sound(float celsius)
{
    return 331.3f * sqrtf(1.0f + celsius / 273.15f);
}
