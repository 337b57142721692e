/* Clockwork: once, every, after, times and absent: the check of its settings, and its reset. */
#include "rigpulse/detect/clockwork.h"

#include "rigpulse/detect/moment.h"
#include "rigpulse/numeric.h"
#include "rigpulse/inside/settings.h"

static bool came(rgp_reading in, float dt)
{
    return rgp_usable(in.quality) && in.value != 0.0f && dt > 0.0f;
}

const char *rgp_once_fault(const rgp_once_config *c)
{
    return RGP_FAULT_OF(once);
}

rgp_status rgp_once_check(const rgp_once_config *config)
{
    return rgp_once_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_once_reset(rgp_once_state *state)
{
    state->done = 0;
}

rgp_reading rgp_once_step(const rgp_once_config *config, rgp_once_state *state, rgp_reading in, float dt)
{
    (void)config;
    (void)in;
    const bool now = !state->done && dt > 0.0f;
    state->done |= now;
    return rgp_good(now ? 1.0f : 0.0f);
}

const char *rgp_every_fault(const rgp_every_config *c)
{
    return RGP_FAULT_OF(every);
}

rgp_status rgp_every_check(const rgp_every_config *config)
{
    return rgp_every_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_every_reset(rgp_every_state *state)
{
    *state = (rgp_every_state){0};
}

rgp_reading rgp_every_step(const rgp_every_config *config, rgp_every_state *state, rgp_reading in, float dt)
{
    if (!came(in, dt)) {
        if (dt > 0.0f) {
            rgp_every_reset(state);
        }
        return (rgp_reading){0.0f, in.quality};
    }
    if (!state->runs) { /* the time begins with this step, not with the one before */
        state->runs = 1;
        return (rgp_reading){0.0f, in.quality};
    }
    const uint64_t period = rgp_microseconds(config->period);
    state->since_us += rgp_microseconds(dt);
    if (state->since_us < period) {
        return (rgp_reading){0.0f, in.quality};
    }
    state->since_us %= period > 0 ? period : 1;
    return (rgp_reading){rgp_moment(rgp_seconds(state->since_us)), in.quality};
}

const char *rgp_after_fault(const rgp_after_config *c)
{
    return RGP_FAULT_OF(after);
}

rgp_status rgp_after_check(const rgp_after_config *config)
{
    return rgp_after_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_after_reset(rgp_after_state *state)
{
    *state = (rgp_after_state){0};
}

rgp_reading rgp_after_step(const rgp_after_config *config, rgp_after_state *state, rgp_reading in, float dt)
{
    const uint64_t step = rgp_microseconds(dt);
    float told = 0.0f;
    if (state->waits) {
        if (state->left_us <= step && dt > 0.0f) {
            told = rgp_moment(rgp_seconds(step - state->left_us));
            state->waits = 0;
        } else {
            state->left_us -= step;
        }
    }
    if (came(in, dt)) {
        const uint64_t time = rgp_microseconds(config->time), age = rgp_microseconds(rgp_moment_age(in.value));
        state->waits = time > age;
        state->left_us = state->waits ? time - age : 0;
        told = state->waits ? 0.0f : rgp_moment(rgp_seconds(age - time));
    }
    return (rgp_reading){told, told != 0.0f ? RGP_GOOD : in.quality};
}

const char *rgp_times_fault(const rgp_times_config *c)
{
    return RGP_FAULT_OF(times);
}

rgp_status rgp_times_check(const rgp_times_config *config)
{
    return rgp_times_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

/* Only the head: the rest is not read before it has been written, and may not be there. */
void rgp_times_reset(rgp_times_state *state)
{
    state->now_us = 0;
    state->held = 0;
    state->newest = 0;
}

rgp_reading rgp_times_step(const rgp_times_config *config, rgp_times_state *state, rgp_reading in, float dt)
{
    state->now_us += rgp_microseconds(dt);
    if (!came(in, dt)) {
        return (rgp_reading){0.0f, in.quality};
    }
    const uint64_t age = rgp_microseconds(rgp_moment_age(in.value));
    const uint64_t at = state->now_us > age ? state->now_us - age : 0;
    state->newest = (state->newest + 1) % config->count;
    const uint64_t oldest = state->at_us[(state->newest + 1) % config->count];
    state->at_us[state->newest] = at;
    state->held += state->held < config->count;
    const bool enough = state->held == config->count && at - oldest <= rgp_microseconds(config->within);
    state->held = enough ? 0 : state->held;
    return (rgp_reading){enough ? in.value : 0.0f, in.quality};
}

const char *rgp_absent_fault(const rgp_absent_config *c)
{
    return RGP_FAULT_OF(absent);
}

rgp_status rgp_absent_check(const rgp_absent_config *config)
{
    return rgp_absent_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_absent_reset(rgp_absent_state *state)
{
    *state = (rgp_absent_state){0};
}

rgp_reading rgp_absent_step(const rgp_absent_config *config, rgp_absent_state *state, rgp_reading in, float dt)
{
    if (came(in, dt)) {
        state->since_us = rgp_microseconds(rgp_moment_age(in.value));
    } else if (rgp_usable(in.quality) && dt > 0.0f) {
        state->since_us += state->runs ? rgp_microseconds(dt) : 0; /* the time begins with the first step */
    }
    state->runs |= rgp_usable(in.quality) && dt > 0.0f;
    return (rgp_reading){state->since_us >= rgp_microseconds(config->time) ? 1.0f : 0.0f, in.quality};
}
