#include "rigpulse/detect/edge.h"

rp_status rp_edge_check(const rp_edge_config *config)
{
    return config->which >= RP_EDGE_RISE && config->which <= RP_EDGE_EITHER ? RP_OK : RP_E_CONFIG;
}

void rp_edge_reset(rp_edge_state *state)
{
    state->known = 0;
    state->is = 0;
}
