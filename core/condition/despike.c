#include "rigpulse/condition/despike.h"

rp_status rp_despike_check(const rp_despike_config *config)
{
    const uint32_t n = config->window;
    return n >= 3 && n <= RP_DESPIKE_WINDOW_MAX && n % 2 == 1 ? RP_OK : RP_E_CONFIG;
}

void rp_despike_reset(rp_despike_state *state)
{
    state->filled = 0;
    state->next = 0;
}
