#include "rigpulse/condition/vet.h"

#include "rigpulse/numeric.h"

rp_status rp_vet_check(const rp_vet_config *config)
{
    return config->low < config->high && config->pinned <= 1 && rp_finite(config->stuck) && config->stuck >= 0.0f &&
                   rp_finite(config->jump) && config->jump >= 0.0f
               ? RP_OK
               : RP_E_CONFIG;
}

void rp_vet_reset(rp_vet_state *state)
{
    *state = (rp_vet_state){.sample = {.quality = RP_MISSING}, .verdict = RP_MISSING};
}

static bool changed_too_fast(const rp_vet_config *config, const rp_vet_state *state, int32_t raw)
{
    if (config->jump <= 0.0f || !state->known) {
        return false;
    }
    const float change = (float)raw - (float)state->accepted;
    const float possible = config->jump * rp_seconds(state->since_us);
    return change > possible || change < -possible;
}

/* A sample is judged once, when it is handed in: what was too fast does not become possible by standing. */
static rp_quality judge(const rp_vet_config *config, const rp_vet_state *state)
{
    const rp_sample *s = &state->sample;
    if (!rp_usable(s->quality)) {
        return s->quality < RP_QUALITIES ? s->quality : (rp_quality)RP_MISSING;
    }
    if (s->raw < config->low || s->raw > config->high) {
        return RP_OUT_OF_RANGE;
    }
    if (config->pinned && (s->raw == config->low || s->raw == config->high)) {
        return RP_PINNED;
    }
    return changed_too_fast(config, state, s->raw) ? (rp_quality)RP_JUMP : s->quality;
}

static bool is_late(const rp_vet_config *config, const rp_vet_state *state, uint64_t now_us)
{
    const uint64_t taken_us = state->sample.time_us;
    return config->due_us && now_us > taken_us && now_us - taken_us > config->due_us;
}

static rp_quality by_age(const rp_vet_config *config, const rp_vet_state *state, uint64_t now_us)
{
    const rp_quality verdict = state->verdict;
    if (!rp_usable(verdict) && verdict != RP_JUMP) {
        return verdict;
    }
    if (is_late(config, state, now_us)) {
        return RP_LATE;
    }
    const bool stuck = config->stuck > 0.0f && state->same_us >= rp_microseconds(config->stuck);
    return stuck && verdict != RP_JUMP ? (rp_quality)RP_STUCK : verdict;
}

rp_quality rp_vet_step(const rp_vet_config *config, rp_vet_state *state, uint64_t now_us, float dt)
{
    const uint64_t passed = rp_microseconds(dt);
    const bool fresh = state->fresh;
    state->since_us += passed;
    if (fresh) {
        state->verdict = judge(config, state);
        state->fresh = 0;
    }
    if (rp_usable(state->sample.quality)) {
        state->same_us = state->sample.raw == state->raw ? state->same_us + passed : 0;
        state->raw = state->sample.raw;
    }
    const rp_quality quality = by_age(config, state, now_us);
    if (fresh && rp_usable(quality)) {
        state->accepted = state->raw;
        state->since_us = 0;
        state->known = 1;
    }
    return quality;
}
