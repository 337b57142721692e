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
    *state = (rp_vet_state){.sample = {0, 0, RP_MISSING}};
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

/* A sample that was too fast does not become possible by standing. */
static bool jumped(const rp_vet_config *config, rp_vet_state *state)
{
    const rp_sample *s = &state->sample;
    if (!state->judged || s->time_us != state->judged_us) {
        state->leapt = changed_too_fast(config, state, s->raw);
        state->judged = 1;
        state->judged_us = s->time_us;
    }
    return state->leapt;
}

rp_quality rp_vet_step(const rp_vet_config *config, rp_vet_state *state, uint64_t now_us, float dt)
{
    const rp_sample *s = &state->sample;
    const int32_t raw = s->raw;
    const uint64_t passed = rp_microseconds(dt);
    state->since_us += passed;
    if (!rp_usable(s->quality)) {
        return s->quality < RP_QUALITIES ? s->quality : (rp_quality)RP_MISSING;
    }
    state->same_us = raw == state->raw ? state->same_us + passed : 0;
    state->raw = raw;
    if (raw < config->low || raw > config->high) {
        return RP_OUT_OF_RANGE;
    }
    if (config->pinned && (raw == config->low || raw == config->high)) {
        return RP_PINNED;
    }
    if (config->due_us && now_us > s->time_us && now_us - s->time_us > config->due_us) {
        return RP_LATE;
    }
    if (jumped(config, state)) {
        return RP_JUMP;
    }
    if (config->stuck > 0.0f && state->same_us >= rp_microseconds(config->stuck)) {
        return RP_STUCK;
    }
    state->accepted = raw;
    state->since_us = 0;
    state->known = 1;
    return s->quality;
}
