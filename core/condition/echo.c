/* echo (time of flight of sound): the check of its settings. */
#include "rigpulse/condition/echo.h"
#include "rigpulse/inside/settings.h"

#include <math.h>

const char *rgp_echo_fault(const rgp_echo_config *c)
{
    const char *fault = RGP_FAULT_OF(echo);
    return fault ? fault : c->far > c->near ? NULL : RGP_WORDS("far: above near");
}

rgp_status rgp_echo_check(const rgp_echo_config *config)
{
    return rgp_echo_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

float rgp_speed_of_sound(float celsius)
{
    return 331.3f * sqrtf(1.0f + celsius / 273.15f);
}
