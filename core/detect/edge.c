/* edge and changed (edge detectors): the check of its settings, and its reset. */
#include "rigpulse/detect/edge.h"
#include "rigpulse/inside/settings.h"

const char *rgp_edge_fault(const rgp_edge_config *c)
{
    return RGP_FAULT_OF(edge);
}

rgp_status rgp_edge_check(const rgp_edge_config *config)
{
    return rgp_edge_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_edge_reset(rgp_edge_state *state)
{
    state->known = 0;
    state->is = 0;
}
