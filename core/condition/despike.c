/* despike (running median): the check of its settings, its reset, and what a window forgets behind a gap. */
#include "rigpulse/condition/despike.h"
#include "rigpulse/inside/settings.h"

const char *rgp_despike_fault(const rgp_despike_config *c)
{
    return RGP_FAULT_OF(despike);
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

/* The next reading goes in behind those that it is not less than. */
static void sort_in(float *sorted, uint32_t filled, float value)
{
    uint32_t at = filled;
    for (; at > 0 && sorted[at - 1] > value; at--) {
        sorted[at] = sorted[at - 1];
    }
    sorted[at] = value;
}

/* The lower one of the middle of a small window that may not be full. */
static float small_middle(const rgp_despike_state *state)
{
    float sorted[RGP_DESPIKE_SMALL];
    for (uint32_t i = 0; i < state->filled; i++) {
        sort_in(sorted, i, state->kept[i]);
    }
    return sorted[(state->filled - 1u) / 2u];
}

/* Here `filled` goes from 0 to the window; the step in the header needs it full. Of an even number the lower one of the
 * middle two. */
float rgp_despike_fill(const rgp_despike_config *config, rgp_despike_state *state, float value, bool counts)
{
    const bool is_small = config->window <= RGP_DESPIKE_SMALL;
    float *const sorted = state->kept + config->window;
    if (counts) {
        state->kept[state->next++] = value;
        if (!is_small) {
            sort_in(sorted, state->filled, value);
        }
        state->filled++;
        state->missed = 0;
        state->next = (uint8_t)(state->next == config->window ? 0u : state->next);
    }
    if (state->filled == 0) {
        return value;
    }
    return is_small ? small_middle(state) : sorted[(state->filled - 1u) / 2u];
}
