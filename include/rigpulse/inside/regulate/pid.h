/* The inside of rigpulse/regulate/pid.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_REGULATE_PID_H
#define RIGPULSE_INSIDE_REGULATE_PID_H

#include "rigpulse/regulate/pid.h"
#include "rigpulse/numeric.h"
#include "rigpulse/drive/limit.h"

#include <string.h>

RGP_DECLARATIONS_BEGIN

static inline void rgp_pid_retune(rgp_pid_state *state)
{
    state->share_dt = 0.0f;
}

/* The part of rgp_pid_step() for the first step, when the settings or dt have changed, and behind a gap. Gives the time
 * that the slope goes on by. */
float rgp_pid_adapt(const rgp_pid_config *config, rgp_pid_state *state, float setpoint, float measured, float dt);

/* The part of rgp_pid_step() where the settings are not plain: the error beyond the dead band, above 0 where the output
 * has to rise; *now becomes what the slope is of. */
float rgp_pid_weigh(const rgp_pid_config *config, rgp_pid_state *state, float setpoint, float measured, float *now);

/* The part of rgp_pid_step() for an integral that is drawn back: how far it goes on, in output units. */
float rgp_pid_draw_back(const rgp_pid_config *config, float growth, float short_by, float dt);

/* The part of rgp_pid_step() when asked is no number: the output, rest or the limit next to it, out of range. */
rgp_reading rgp_pid_give_up(const rgp_pid_config *config, rgp_pid_state *state);

/* Without a step. What was found for one dt is found anew behind a gap. */
static inline rgp_reading rgp__pid_pass(rgp_pid_state *state, rgp_quality quality, float dt)
{
    state->gap_us += rgp_microseconds(dt);
    state->share_dt = 0.0f;
    return rgp_reading_of(state->output, quality);
}

/* Error, P and D. Gives the error beyond the dead band, above 0 where the output has to rise. */
static inline float rgp__pid_sense(const rgp_pid_config *config, rgp_pid_state *state, const rgp_pid_input *in,
                                   float dt)
{
    const float setpoint = in->setpoint.value, measured = in->measured.value, error = setpoint - measured;
    if (dt != state->share_dt || memcmp(&config->gain, &state->last, sizeof state->last) != 0) {
        dt = rgp_pid_adapt(config, state, setpoint, measured, dt);
    }
    float beyond = error, now = -measured;
    state->error = state->weighted = error;
    if (!state->plain) {
        float weighed; /* apart, so that the plain way needs no memory for it */
        beyond = rgp_pid_weigh(config, state, setpoint, measured, &weighed);
        now = weighed;
    }
    state->slope += state->share * ((now - state->before) / dt - state->slope);
    state->before = now;
    state->p = config->gain.kp * state->weighted;
    state->d = config->gain.kd * state->slope;
    return beyond;
}

/* From the integral to the output. Without back-calculation an integral that has gone on by `growth` and pushes beyond
 * a limit goes back by what is beyond, and at most by all of that. */
static inline rgp_reading rgp__pid_end(const rgp_pid_config *config, rgp_pid_state *state, float others, float growth,
                                       rgp_quality quality)
{
    float unlimited = others + state->i, output = unlimited;
    if (!(unlimited >= config->low && unlimited <= config->high)) {
        if (!rgp_finite(unlimited)) {
            return rgp_pid_give_up(config, state);
        }
        output = rgp_limit(unlimited, config->low, config->high);
        const float beyond = unlimited - output;
        if (!(config->tracking_time > 0.0f) && (beyond > 0.0f ? growth > 0.0f : growth < 0.0f)) {
            state->i -= (beyond > 0.0f ? growth > beyond : growth < beyond) ? beyond : growth;
            state->lost = 0.0f;
            unlimited = others + state->i;
        }
        state->saturated = 1;
    }
    state->unlimited = unlimited;
    state->output = output;
    return rgp_reading_of(output, quality);
}

static inline rgp_reading rgp_pid_step(const rgp_pid_config *config, rgp_pid_state *state, const rgp_pid_input *in,
                                       float dt)
{
    const rgp_quality quality = rgp_worst(in->setpoint.quality, in->measured.quality);
    if (!rgp_usable(quality) || !(dt > 0.0f)) {
        return rgp__pid_pass(state, quality, dt);
    }
    const float beyond = rgp__pid_sense(config, state, in, dt);
    const float others = state->p + state->d + in->feed_forward;
    const float short_by = (state->unlimited - state->output) + in->shortfall;
    float growth = config->gain.ki * beyond * dt;
    state->saturated = short_by > state->slack || short_by < -state->slack;
    if (state->saturated) {
        if (config->tracking_time > 0.0f) {
            growth = rgp_pid_draw_back(config, growth, short_by, dt);
        } else if (short_by > 0.0f ? growth > 0.0f : growth < 0.0f) {
            growth = 0.0f;
        }
    }
    const float add = growth - state->lost, sum = state->i + add;
    state->lost = (sum - state->i) - add;
    state->i = sum;
    return rgp__pid_end(config, state, others, growth, quality);
}

/* The integral is what makes the output go on from `driven` with the terms of the last step. */
static inline rgp_reading rgp__pid_take(const rgp_pid_config *config, rgp_pid_state *state, const rgp_pid_input *in,
                                        float driven, rgp_quality quality)
{
    const float others = state->p + state->d + in->feed_forward;
    state->i = config->gain.ki > 0.0f ? driven - others : 0.0f;
    state->lost = 0.0f;
    state->saturated = 0;
    return rgp__pid_end(config, state, others, 0.0f, quality);
}

static inline rgp_reading rgp_pid_follow(const rgp_pid_config *config, rgp_pid_state *state, const rgp_pid_input *in,
                                         float driven, float dt)
{
    const rgp_quality quality = rgp_worst(in->setpoint.quality, in->measured.quality);
    if (!rgp_usable(quality) || !(dt > 0.0f)) {
        return rgp__pid_pass(state, quality, dt);
    }
    rgp__pid_sense(config, state, in, dt);
    return rgp__pid_take(config, state, in, driven, quality);
}

static inline rgp_reading rgp_pid_stand(const rgp_pid_config *config, rgp_pid_state *state, const rgp_pid_input *in,
                                        float driven, bool follows)
{
    const rgp_quality quality = rgp_worst(in->setpoint.quality, in->measured.quality);
    return follows && rgp_usable(quality) ? rgp__pid_take(config, state, in, driven, quality)
                                          : rgp_reading_of(state->output, quality);
}

RGP_DECLARATIONS_END

#endif
