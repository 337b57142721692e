#include "rigpulse/regulate/loops.h"

rp_status rp_pid_loop_check(const rp_pid_loop_config *config)
{
    const rp_status status = rp_loop_check(&config->loop);
    return status == RP_OK ? rp_pid_check(&config->pid) : status;
}

rp_status rp_onoff_loop_check(const rp_onoff_loop_config *config)
{
    const rp_status status = rp_loop_check(&config->loop);
    return status == RP_OK ? rp_onoff_check(&config->onoff) : status;
}

rp_status rp_nudge_loop_check(const rp_nudge_loop_config *config)
{
    const rp_status status = rp_loop_check(&config->loop);
    return status == RP_OK ? rp_nudge_check(&config->nudge) : status;
}

void rp_pid_loop_reset(rp_pid_loop_state *state)
{
    *state = (rp_pid_loop_state){0};
}

void rp_onoff_loop_reset(rp_onoff_loop_state *state)
{
    *state = (rp_onoff_loop_state){0};
}

void rp_nudge_loop_reset(rp_nudge_loop_state *state)
{
    *state = (rp_nudge_loop_state){0};
}

/* The phase, and the terms that every loop has but its output. Gives the setpoint that the controller sees. */
static rp_reading begin(const rp_loop_config *config, rp_loop_state *state, const rp_loop_input *in, bool saturated,
                        float dt, rp_reading *term)
{
    if (in->link->anew) {
        in->link->anew = 0;
        if (state->phase == RP_LOOP_OUT) {
            rp_loop_reset(state);
        }
    }
    const uint8_t phase =
        rp_loop_step(config, state, in->setpoint, in->measured, saturated, in->link->stopped != 0, dt);
    const rp_reading target = rp_loop_target(state, in->setpoint);
    const rp_quality quality = rp_worst(target.quality, in->measured.quality);
    in->link->phase = phase;
    in->link->reason = state->reason;
    term[RP_TERM_PHASE] = rp_good((float)phase);
    term[RP_TERM_TARGET] = target;
    term[RP_TERM_ERROR] = rp_number(target.value - in->measured.value, quality);
    return target;
}

/* What is driven: the controller's output and the push, within the limits. */
static rp_reading end(const rp_loop_config *config, rp_loop_state *state, rp_reading output, float low, float high)
{
    switch (state->phase) {
    case RP_LOOP_ENGAGED:
        state->output = rp_limit(output.value + config->push, low, high);
        return (rp_reading){state->output, output.quality};
    case RP_LOOP_HELD:
        return (rp_reading){state->output, RP_HELD};
    default:
        return (rp_reading){0.0f, RP_MISSING};
    }
}

void rp_pid_loop_step(const rp_pid_loop_config *config, rp_pid_loop_state *state, const rp_loop_input *in, float dt,
                      rp_reading *term)
{
    rp_pid_state *pid = &state->pid;
    const bool saturated = pid->saturated && in->link->charge;
    const rp_reading target = begin(&config->loop, &state->loop, in, saturated, dt, term);
    const bool begins = state->loop.begins, drives = state->loop.phase == RP_LOOP_ENGAGED;
    if (begins || !(drives || state->loop.phase == RP_LOOP_HELD)) {
        rp_pid_reset(pid);
    }
    rp_reading output = {0.0f, RP_MISSING};
    if (drives) {
        const rp_pid_input input = {.setpoint = {target.value, rp_worst(target.quality, in->feed.quality)},
                                    .measured = in->measured,
                                    .feed = in->feed.value,
                                    .taken = in->link->taken - config->loop.push};
        output = begins || in->link->charge ? rp_pid_step(&config->pid, pid, &input, dt)
                                            : rp_pid_follow(&config->pid, pid, &input, dt);
    }
    term[RP_TERM_OUTPUT] = end(&config->loop, &state->loop, output, config->pid.low, config->pid.high);
    const rp_quality quality = drives ? output.quality : term[RP_TERM_OUTPUT].quality;
    term[RP_TERM_P] = (rp_reading){pid->p, quality};
    term[RP_TERM_I] = (rp_reading){pid->i, quality};
    term[RP_TERM_D] = (rp_reading){pid->d, quality};
    term[RP_TERM_ASKED] = (rp_reading){pid->asked, quality};
    term[RP_TERM_SATURATED] = (rp_reading){pid->saturated ? 1.0f : 0.0f, quality};
}

void rp_onoff_loop_step(const rp_onoff_loop_config *config, rp_onoff_loop_state *state, const rp_loop_input *in,
                        float dt, rp_reading *term)
{
    rp_reading target = begin(&config->loop, &state->loop, in, false, dt, term);
    rp_reading output = {0.0f, RP_MISSING};
    if (state->loop.phase == RP_LOOP_ENGAGED) {
        if (state->loop.begins) {
            rp_onoff_reset(&state->onoff);
        }
        output = rp_onoff_step(&config->onoff, &state->onoff, target, in->measured, dt);
    }
    term[RP_TERM_OUTPUT] = end(&config->loop, &state->loop, output, config->onoff.low, config->onoff.high);
}

void rp_nudge_loop_step(const rp_nudge_loop_config *config, rp_nudge_loop_state *state, const rp_loop_input *in,
                        float dt, rp_reading *term)
{
    rp_reading target = begin(&config->loop, &state->loop, in, false, dt, term);
    const float taken = in->link->taken - config->loop.push;
    rp_reading output = {0.0f, RP_MISSING};
    if (state->loop.phase == RP_LOOP_ENGAGED) {
        if (state->loop.begins) {
            rp_nudge_reset(&state->nudge);
        } else if (!in->link->charge) {
            rp_nudge_follow(&config->nudge, &state->nudge, taken);
        }
        output = rp_nudge_step(&config->nudge, &state->nudge, target, in->measured, taken, dt);
    }
    term[RP_TERM_OUTPUT] = end(&config->loop, &state->loop, output, config->nudge.low, config->nudge.high);
}
