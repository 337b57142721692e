#include "rigpulse/detect/dithers.h"

#include "rigpulse/inside/settings.h"

const char *rgp_dithers_fault(const rgp_dithers_config *c)
{
    return RGP_FAULT_OF(dithers);
}

rgp_status rgp_dithers_check(const rgp_dithers_config *config)
{
    return rgp_dithers_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_dithers_reset(rgp_dithers_state *state)
{
    *state = (rgp_dithers_state){0};
}

rgp_reading rgp_dithers_step(const rgp_dithers_config *config, rgp_dithers_state *state, rgp_reading in, float dt)
{
    if (rgp_usable(in.quality) && dt > 0.0f) {
        const float away = in.value - state->before;
        state->is = state->known && (away > config->least || away < -config->least);
        state->before = in.value;
        state->known = 1;
    }
    return (rgp_reading){state->is ? 1.0f : 0.0f, in.quality};
}
