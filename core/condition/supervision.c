/* Supervision of a sensor: range, pinned, jump by sample; late and stuck by time. */
#include "rigpulse/condition/supervision.h"

#include "rigpulse/numeric.h"

const char *rgp_supervision_fault(const rgp_supervision_config *c)
{
    return !(c->low < c->high)                           ? RGP_WORDS("high: above low")
           : !(c->pinned <= 1)                           ? RGP_WORDS("pinned: 0 or 1")
           : !(rgp_finite(c->stuck) && c->stuck >= 0.0f) ? RGP_WORDS("stuck: seconds, 0 or more")
           : !(rgp_finite(c->jump) && c->jump >= 0.0f)   ? RGP_WORDS("jump: counts a second, 0 or more")
                                                         : NULL;
}

rgp_status rgp_supervision_check(const rgp_supervision_config *config)
{
    return rgp_supervision_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_supervision_reset(rgp_supervision_state *state)
{
    *state = (rgp_supervision_state){.sample = {.quality = RGP_MISSING}, .verdict = RGP_MISSING};
}

/* Against the last reading that was accepted, over the time since that: after a jump that was none the limit widens
 * until the new place is believed. */
static bool changed_too_fast(const rgp_supervision_config *config, const rgp_supervision_state *state, int32_t raw)
{
    if (config->jump <= 0.0f || !state->known) {
        return false;
    }
    const float change = (float)raw - (float)state->accepted;
    const float possible = config->jump * rgp_seconds(state->since_us);
    return change > possible || change < -possible;
}

/* A sample is judged once, when it is handed in: what was too fast does not become possible by standing. */
static rgp_quality sample_verdict(const rgp_supervision_config *config, const rgp_supervision_state *state)
{
    const rgp_sample *s = &state->sample;
    if (!rgp_usable(s->quality)) {
        return s->quality < RGP_QUALITIES ? s->quality : (rgp_quality)RGP_MISSING;
    }
    if (s->raw < config->low || s->raw > config->high) {
        return RGP_OUT_OF_RANGE;
    }
    if (config->pinned && (s->raw == config->low || s->raw == config->high)) {
        return RGP_PINNED;
    }
    return changed_too_fast(config, state, s->raw) ? (rgp_quality)RGP_JUMP : s->quality;
}

/* By the sample's own time. 0 for due_us: a sensor that may be silent. */
static bool is_late(const rgp_supervision_config *config, const rgp_supervision_state *state, uint64_t now_us)
{
    const uint64_t taken_us = state->sample.time_us;
    return config->due_us && now_us > taken_us && now_us - taken_us > config->due_us;
}

/* The verdict on the sample stands before its age; late before stuck. */
static rgp_quality by_age(const rgp_supervision_config *config, const rgp_supervision_state *state, uint64_t now_us)
{
    const rgp_quality verdict = state->verdict;
    if (!rgp_usable(verdict) && verdict != RGP_JUMP) {
        return verdict;
    }
    if (is_late(config, state, now_us)) {
        return RGP_LATE;
    }
    const bool stuck = config->stuck > 0.0f && state->same_us >= rgp_microseconds(config->stuck);
    return stuck && verdict != RGP_JUMP ? (rgp_quality)RGP_STUCK : verdict;
}

rgp_quality rgp_supervision_step(const rgp_supervision_config *config, rgp_supervision_state *state, uint64_t now_us,
                                 float dt)
{
    const uint64_t passed = rgp_microseconds(dt);
    const bool fresh = state->fresh;
    state->since_us += passed;
    if (fresh) {
        state->verdict = sample_verdict(config, state);
        state->fresh = 0;
    }
    if (rgp_usable(state->sample.quality)) {
        state->same_us = state->sample.raw == state->raw ? state->same_us + passed : 0;
        state->raw = state->sample.raw;
    }
    const rgp_quality quality = by_age(config, state, now_us);
    if (fresh && rgp_usable(quality)) {
        state->accepted = state->raw;
        state->since_us = 0;
        state->known = 1;
    }
    return quality;
}
