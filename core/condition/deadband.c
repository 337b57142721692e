/* deadband (dead zone): the check of its settings. */
#include "rigpulse/condition/deadband.h"

rgp_status rgp_deadband_check(const rgp_deadband_config *config)
{
    return rgp_finite(config->width) && config->width >= 0.0f ? RGP_OK : RGP_E_CONFIG;
}
