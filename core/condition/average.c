/* average (moving mean): the check of its settings, and its reset. */
#include "rigpulse/condition/average.h"
#include "rigpulse/inside/settings.h"

const char *rgp_average_fault(const rgp_average_config *c)
{
    return RGP_FAULT_OF(average);
}

rgp_status rgp_average_check(const rgp_average_config *config)
{
    return rgp_average_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_average_reset(rgp_average_state *state)
{
    state->filled = state->next = state->missed = state->reserved = 0;
    state->sum = 0.0f;
}

/* While the window is full each reading adds the difference to the one that leaves; the rounding of at most `window`
 * such differences goes when the sum is made anew, each time that the ring has gone round. */
void rgp_average_take(const rgp_average_config *config, rgp_average_state *state, float value)
{
    float *const place = &state->kept[state->next];
    state->missed = 0;
    if (state->filled < config->window) {
        state->filled++;
        state->sum += value;
    } else {
        state->sum += value - *place;
    }
    *place = value;
    if (++state->next >= config->window) {
        state->next = 0;
        state->sum = 0.0f;
        for (uint32_t i = 0; i < state->filled; i++) {
            state->sum += state->kept[i];
        }
    }
}
