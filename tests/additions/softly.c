#include "rigpulse/condition/softly.h"

rp_status rp_softly_check(const rp_softly_config *config)
{
    return config->by >= 1.0f && config->by <= 100.0f ? RP_OK : RP_E_CONFIG;
}
