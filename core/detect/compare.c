#include "rigpulse/detect/compare.h"

#include "rigpulse/numeric.h"

rp_status rp_compare_check(const rp_compare_config *config)
{
    const bool sound = rp_finite(config->limit) && rp_finite(config->margin) && config->margin >= 0.0f &&
                       config->side <= RP_COMPARE_ABOVE;
    return sound ? RP_OK : RP_E_CONFIG;
}

void rp_compare_reset(rp_compare_state *state)
{
    state->is = 0;
}
