#include "rigpulse/condition/unwrap.h"

rp_status rp_unwrap_check(const rp_unwrap_config *config)
{
    const bool sound = rp_finite(config->turn) && config->turn > 0.0f && rp_finite(config->fastest) &&
                       config->fastest >= 0.0f && config->anyway <= 1;
    return sound ? RP_OK : RP_E_CONFIG;
}

void rp_unwrap_reset(rp_unwrap_state *state)
{
    *state = (rp_unwrap_state){.gap = RP_GOOD, .lost = RP_GOOD};
}

void rp_unwrap_miss(rp_unwrap_state *state, rp_quality quality, float dt)
{
    state->gap = quality;
    state->gap_us += rp_microseconds(dt);
    state->missed = (uint8_t)(state->missed + (state->missed <= RP_UNWRAP_MISSED_MAX));
}

void rp_unwrap_resume(const rp_unwrap_config *config, rp_unwrap_state *state, float dt)
{
    const float passed = rp_seconds(state->gap_us) + dt;
    const bool turned =
        config->fastest > 0.0f ? config->fastest * passed >= 0.5f * config->turn : state->missed > RP_UNWRAP_MISSED_MAX;
    if (state->known && turned) {
        state->lost = config->anyway ? (rp_quality)RP_HELD : state->gap;
    }
    state->gap_us = 0;
    state->missed = 0;
}

rp_reading rp_unwrap_whole(const rp_unwrap_config *config, rp_unwrap_state *state, int32_t raw, rp_quality quality,
                           float dt)
{
    if (!rp_usable(quality)) {
        rp_unwrap_miss(state, quality, dt);
    } else if (dt > 0.0f) {
        rp_unwrap_cross(config, state, (float)((int64_t)raw - state->whole), dt);
        state->whole = raw;
    }
    const int32_t from = state->known ? state->whole : raw;
    return rp_number(rp_nearest_sum(from, 1.0f, state->turns, config->turn), rp_worst(quality, state->lost));
}
