#include "rigpulse/condition/softly.h"

rgp_status rgp_softly_check(const rgp_softly_config *config)
{
    return config->by >= 1.0f && config->by <= 100.0f ? RGP_OK : RGP_E_CONFIG;
}
