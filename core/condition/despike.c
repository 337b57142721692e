/* despike (running median): the check of its settings, its reset, and what a window forgets behind a gap. */
#include "rigpulse/condition/despike.h"

const char *rgp_despike_fault(const rgp_despike_config *c)
{
    return !(c->window >= 3 && c->window <= RGP_DESPIKE_WINDOW_MAX && c->window % 2 == 1)
               ? RGP_WORDS("window: odd, 3 to 31 readings")
               : NULL;
}

rgp_status rgp_despike_check(const rgp_despike_config *config)
{
    return rgp_despike_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_despike_reset(rgp_despike_state *state)
{
    state->filled = 0;
    state->next = 0;
    state->missed = 0;
    state->reserved = 0;
}

/* A reading that does not count: at dt 0 it is the same moment again, and nothing was missed. */
void rgp_despike_miss(const rgp_despike_config *config, rgp_despike_state *state)
{
    if (++state->missed >= config->window) {
        rgp_despike_reset(state);
    }
}

float rgp_despike_fill(const rgp_despike_config *config, rgp_despike_state *state, float value, bool counts)
{
    float *const sorted = state->kept + config->window;
    if (counts) {
        uint32_t at = state->filled++;
        state->kept[state->next++] = value;
        for (; at > 0 && sorted[at - 1] > value; at--) {
            sorted[at] = sorted[at - 1];
        }
        sorted[at] = value;
        state->missed = 0;
        state->next = (uint8_t)(state->next == config->window ? 0u : state->next);
    }
    return state->filled ? sorted[(state->filled - 1u) / 2u] : value;
}
