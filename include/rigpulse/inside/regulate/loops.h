/* The inside of rigpulse/regulate/loops.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_REGULATE_LOOPS_H
#define RIGPULSE_INSIDE_REGULATE_LOOPS_H

#include "rigpulse/regulate/loops.h"

#include <string.h>

RGP_DECLARATIONS_BEGIN

/* The part of rgp_pid_loop_step() unless the loop simply goes on. */
bool rgp_pid_loop_move(const rgp_pid_loop_config *config, rgp_pid_loop_state *state, const rgp_loop_input *in, float dt,
                       float *term, rgp_quality *quality);

static inline bool rgp_pid_loop_step(const rgp_pid_loop_config *config, rgp_pid_loop_state *state,
                                     const rgp_loop_input *in, float dt, float *RGP_RESTRICT term, rgp_quality *quality)
{
    const rgp_reading target = {in->setpoint.value + config->loop.trim,
                                rgp_worst(in->setpoint.quality, in->feed_forward.quality)};
    const float error = target.value - in->measured.value, bound = state->loop.bound;
    const rgp_quality worst = rgp_worst(target.quality, in->measured.quality);
    rgp_loop_link *const link = &state->link;
    if (link->news || in->same || !rgp_usable(worst) || !(error < bound && error > -bound)) {
        const rgp_loop_input given = *in; /* a copy, so that the way below can keep it in registers */
        return rgp_pid_loop_move(config, state, &given, dt, term, quality);
    }
    const rgp_pid_input input = {target, in->measured, in->feed_forward.value,
                                 state->pid.output - (link->driven - config->loop.bias)};
    const rgp_reading output = rgp_pid_step(&config->pid, &state->pid, &input, in->since);
    const float driven = rgp_limit(output.value + config->loop.bias, config->pid.low, config->pid.high);
    state->loop.target = target.value;
    state->loop.output = link->driven = driven;
    term[RGP_TERM_TARGET] = target.value;
    term[RGP_TERM_ERROR] = error;
    term[RGP_TERM_OUTPUT] = driven;
    term[RGP_TERM_P] = state->pid.p;
    term[RGP_TERM_I] = state->pid.i;
    term[RGP_TERM_D] = state->pid.d;
    term[RGP_TERM_UNLIMITED] = state->pid.unlimited;
    term[RGP_TERM_SATURATED] = (float)state->pid.saturated;
    memset(quality + RGP_TERM_TARGET, output.quality, RGP_TERMS - RGP_TERM_TARGET);
    quality[RGP_TERM_TARGET] = in->setpoint.quality;
    quality[RGP_TERM_ERROR] = rgp_worst(in->setpoint.quality, in->measured.quality);
    return rgp_usable(output.quality);
}

RGP_DECLARATIONS_END

#endif
