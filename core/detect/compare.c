/* compare (comparator with hysteresis): the check of its settings, and its reset. */
#include "rigpulse/detect/compare.h"

#include "rigpulse/numeric.h"

rgp_status rgp_compare_check(const rgp_compare_config *config)
{
    const bool sound = rgp_finite(config->limit) && rgp_finite(config->margin) && config->margin >= 0.0f &&
                       config->side <= RGP_COMPARE_ABOVE;
    return sound ? RGP_OK : RGP_E_CONFIG;
}

void rgp_compare_reset(rgp_compare_state *state)
{
    state->is = 0;
}
