/* unwrap (angle unwrapping): the check of its settings, and its reset. */
#include "rigpulse/condition/unwrap.h"
#include "rigpulse/inside/settings.h"

const char *rgp_unwrap_fault(const rgp_unwrap_config *c)
{
    return RGP_FAULT_OF(unwrap);
}

rgp_status rgp_unwrap_check(const rgp_unwrap_config *config)
{
    return rgp_unwrap_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_unwrap_reset(rgp_unwrap_state *state)
{
    *state = (rgp_unwrap_state){.gap = RGP_GOOD, .lost = RGP_GOOD};
}

void rgp_unwrap_miss(rgp_unwrap_state *state, rgp_quality quality, float dt)
{
    state->gap = quality;
    state->gap_us += rgp_microseconds(dt);
    state->missed = (uint8_t)(state->missed + (state->missed <= RGP_UNWRAP_MISSED_MAX));
}

void rgp_unwrap_resume(const rgp_unwrap_config *config, rgp_unwrap_state *state, float dt)
{
    const float passed = rgp_seconds(state->gap_us) + dt;
    const bool turned = config->fastest > 0.0f ? config->fastest * passed >= 0.5f * config->turn
                                               : state->missed > RGP_UNWRAP_MISSED_MAX;
    if (state->known && turned) {
        state->lost = config->anyway ? (rgp_quality)RGP_HELD : state->gap;
    }
    state->gap_us = 0;
    state->missed = 0;
}

rgp_reading rgp_unwrap_whole(const rgp_unwrap_config *config, rgp_unwrap_state *state, int32_t raw, rgp_quality quality,
                             float dt)
{
    if (!rgp_usable(quality) && dt > 0.0f) {
        rgp_unwrap_miss(state, quality, dt);
    } else if (dt > 0.0f) {
        rgp__unwrap_cross(config, state, (float)((int64_t)raw - state->whole), dt);
        state->whole = raw;
    }
    const int32_t from = state->known ? state->whole : raw;
    return rgp_number(rgp_nearest_sum(from, 1.0f, state->turns, config->turn), rgp_worst(quality, state->lost));
}
