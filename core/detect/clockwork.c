#include "rigpulse/detect/clockwork.h"

#include "rigpulse/detect/moment.h"
#include "rigpulse/numeric.h"

static rp_status check_time(float time, bool may_be_0)
{
    return (time > 0.0f || (may_be_0 && time == 0.0f)) && time <= RP_CLOCKWORK_TIME_MAX ? RP_OK : RP_E_CONFIG;
}

static bool came(rp_reading in, float dt)
{
    return rp_usable(in.quality) && in.value != 0.0f && dt > 0.0f;
}

rp_status rp_once_check(const rp_once_config *config)
{
    return config->reserved == 0 ? RP_OK : RP_E_CONFIG;
}

void rp_once_reset(rp_once_state *state)
{
    state->done = 0;
}

rp_reading rp_once_step(const rp_once_config *config, rp_once_state *state, rp_reading in, float dt)
{
    (void)config;
    (void)in;
    const bool now = !state->done && dt > 0.0f;
    state->done |= now;
    return rp_good(now ? 1.0f : 0.0f);
}

rp_status rp_every_check(const rp_every_config *config)
{
    return check_time(config->period, false);
}

void rp_every_reset(rp_every_state *state)
{
    *state = (rp_every_state){0};
}

rp_reading rp_every_step(const rp_every_config *config, rp_every_state *state, rp_reading in, float dt)
{
    if (!came(in, dt)) {
        rp_every_reset(state);
        return (rp_reading){0.0f, in.quality};
    }
    if (!state->runs) { /* the time begins with this step, not with the one before */
        state->runs = 1;
        return (rp_reading){0.0f, in.quality};
    }
    const uint64_t period = rp_microseconds(config->period);
    state->since_us += rp_microseconds(dt);
    if (state->since_us < period) {
        return (rp_reading){0.0f, in.quality};
    }
    state->since_us %= period > 0 ? period : 1;
    return (rp_reading){rp_moment(rp_seconds(state->since_us)), in.quality};
}

rp_status rp_after_check(const rp_after_config *config)
{
    return check_time(config->time, true);
}

void rp_after_reset(rp_after_state *state)
{
    *state = (rp_after_state){0};
}

rp_reading rp_after_step(const rp_after_config *config, rp_after_state *state, rp_reading in, float dt)
{
    const uint64_t step = rp_microseconds(dt);
    float told = 0.0f;
    if (state->waits) {
        if (state->left_us <= step && dt > 0.0f) {
            told = rp_moment(rp_seconds(step - state->left_us));
            state->waits = 0;
        } else {
            state->left_us -= step;
        }
    }
    if (came(in, dt)) {
        const uint64_t time = rp_microseconds(config->time), age = rp_microseconds(rp_moment_age(in.value));
        state->waits = time > age;
        state->left_us = state->waits ? time - age : 0;
        told = state->waits ? 0.0f : rp_moment(rp_seconds(age - time));
    }
    return (rp_reading){told, told != 0.0f ? RP_GOOD : in.quality};
}

rp_status rp_times_check(const rp_times_config *config)
{
    return config->count >= 2 && config->count <= RP_TIMES_MAX ? check_time(config->within, false) : RP_E_CONFIG;
}

/* Only the head: the rest is not read before it has been written, and may not be there. */
void rp_times_reset(rp_times_state *state)
{
    state->now_us = 0;
    state->held = 0;
    state->newest = 0;
}

rp_reading rp_times_step(const rp_times_config *config, rp_times_state *state, rp_reading in, float dt)
{
    state->now_us += rp_microseconds(dt);
    if (!came(in, dt)) {
        return (rp_reading){0.0f, in.quality};
    }
    const uint64_t age = rp_microseconds(rp_moment_age(in.value));
    const uint64_t at = state->now_us > age ? state->now_us - age : 0;
    state->newest = (state->newest + 1) % config->count;
    const uint64_t oldest = state->at_us[(state->newest + 1) % config->count];
    state->at_us[state->newest] = at;
    state->held += state->held < config->count;
    const bool enough = state->held == config->count && at - oldest <= rp_microseconds(config->within);
    state->held = enough ? 0 : state->held;
    return (rp_reading){enough ? in.value : 0.0f, in.quality};
}

rp_status rp_absent_check(const rp_absent_config *config)
{
    return check_time(config->time, false);
}

void rp_absent_reset(rp_absent_state *state)
{
    *state = (rp_absent_state){0};
}

rp_reading rp_absent_step(const rp_absent_config *config, rp_absent_state *state, rp_reading in, float dt)
{
    if (came(in, dt)) {
        state->since_us = rp_microseconds(rp_moment_age(in.value));
    } else if (rp_usable(in.quality) && dt > 0.0f) {
        state->since_us += state->runs ? rp_microseconds(dt) : 0; /* the time begins with the first step */
    }
    state->runs |= rp_usable(in.quality) && dt > 0.0f;
    return (rp_reading){state->since_us >= rp_microseconds(config->time) ? 1.0f : 0.0f, in.quality};
}
