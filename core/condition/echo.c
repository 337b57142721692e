/* echo (time of flight of sound): the check of its settings. */
#include "rigpulse/condition/echo.h"

#include <math.h>

rgp_status rgp_echo_check(const rgp_echo_config *config)
{
    return rgp_finite(config->seconds) && config->seconds > 0.0f && rgp_finite(config->metre) && config->metre > 0.0f &&
                   config->celsius >= -100.0f && config->celsius <= 200.0f && config->near >= 0.0f &&
                   rgp_finite(config->far) && config->far > config->near
               ? RGP_OK
               : RGP_E_CONFIG;
}

float rgp_speed_of_sound(float celsius)
{
    return 331.3f * sqrtf(1.0f + celsius / 273.15f);
}
