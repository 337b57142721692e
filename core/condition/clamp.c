/* clamp (limiter of a value): the check of its settings. */
#include "rigpulse/condition/clamp.h"

rgp_status rgp_clamp_check(const rgp_clamp_config *config)
{
    return rgp_finite(config->low) && rgp_finite(config->high) && config->low < config->high ? RGP_OK : RGP_E_CONFIG;
}
