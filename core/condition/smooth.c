/* smooth (first-order low pass): the check of its settings, and its reset. */
#include "rigpulse/condition/smooth.h"
#include "rigpulse/inside/settings.h"

const char *rgp_smooth_fault(const rgp_smooth_config *c)
{
    return RGP_FAULT_OF(smooth);
}

rgp_status rgp_smooth_check(const rgp_smooth_config *config)
{
    return rgp_smooth_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_smooth_reset(rgp_smooth_state *state)
{
    *state = (rgp_smooth_state){0};
}

/* The share of one dt is kept as long as dt and the time constant stay the same; behind a gap it is that of the whole
 * gap, for one step, after which a time constant of 0 makes it be found anew. */
void rgp_smooth_adapt(const rgp_smooth_config *config, rgp_smooth_state *state, float value, float dt)
{
    if (state->dt <= 0.0f) {
        state->output = value;
    }
    state->dt = dt;
    const bool gap = state->gap_us > 0;
    state->time_constant = gap ? 0.0f : config->time_constant;
    state->share = rgp_decay((gap ? dt + rgp_seconds(state->gap_us) : dt) / config->time_constant);
    state->gap_us = 0;
}
