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

rp_reading rp_despike_fill(const rp_despike_config *config, rp_despike_state *state, rp_reading in, float dt)
{
    float *const sorted = state->kept + config->window;
    const bool counts = rp_usable(in.quality) && dt > 0.0f;
    if (counts) {
        uint32_t at = state->filled++;
        state->kept[state->next++] = in.value;
        for (; at > 0 && sorted[at - 1] > in.value; at--) {
            sorted[at] = sorted[at - 1];
        }
        sorted[at] = in.value;
        state->next = (uint16_t)(state->next == config->window ? 0u : state->next);
    } else if (state->filled == 0) {
        return in;
    }
    return (rp_reading){sorted[(state->filled - 1u) / 2u], in.quality};
}
