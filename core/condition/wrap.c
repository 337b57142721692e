/* wrap (angle brought into one turn): the check of its settings. */
#include "rigpulse/condition/wrap.h"

rgp_status rgp_wrap_check(const rgp_wrap_config *config)
{
    return rgp_finite(config->turn) && config->turn > 0.0f && rgp_finite(config->low) ? RGP_OK : RGP_E_CONFIG;
}
