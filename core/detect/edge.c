/* edge and changed (edge detectors): the check of its settings, and its reset. */
#include "rigpulse/detect/edge.h"

rgp_status rgp_edge_check(const rgp_edge_config *config)
{
    return config->which >= RGP_EDGE_RISE && config->which <= RGP_EDGE_EITHER ? RGP_OK : RGP_E_CONFIG;
}

void rgp_edge_reset(rgp_edge_state *state)
{
    state->known = 0;
    state->is = 0;
}
