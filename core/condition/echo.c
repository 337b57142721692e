#include "rigpulse/condition/echo.h"

#include <math.h>

rp_status rp_echo_check(const rp_echo_config *config)
{
    return rp_finite(config->seconds) && config->seconds > 0.0f && rp_finite(config->metre) && config->metre > 0.0f &&
                   config->celsius >= -100.0f && config->celsius <= 200.0f && config->near >= 0.0f &&
                   rp_finite(config->far) && config->far > config->near
               ? RP_OK
               : RP_E_CONFIG;
}

float rp_speed_of_sound(float celsius)
{
    return 331.3f * sqrtf(1.0f + celsius / 273.15f);
}
