#include "rigpulse/condition/line.h"

rp_status rp_line_check(const rp_line_config *config)
{
    return rp_finite(config->gain) && rp_finite(config->offset) && config->gain != 0.0f ? RP_OK : RP_E_CONFIG;
}
