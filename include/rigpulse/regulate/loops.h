/* loops: each controller with what every loop has around it (loop.h), as the engine runs them. A step gives the terms
 * as numbers and their qualities, in the order of RGP_TERM_...; those of onoff and nudge end with the output.
 *
 * Output and terms are missing while the loop does not drive; while it is held the last output stands, as held. */
#ifndef RIGPULSE_REGULATE_LOOPS_H
#define RIGPULSE_REGULATE_LOOPS_H

#include "rigpulse/linkage.h"
#include "rigpulse/regulate/loop.h"
#include "rigpulse/regulate/nudge.h"
#include "rigpulse/regulate/onoff.h"
#include "rigpulse/regulate/pid.h"

#include <string.h>

RGP_DECLARATIONS_BEGIN

/* X(name, the end of its name in a rig, what it is) */
#define RGP_TERM_LIST(X)                                                           \
    X(PHASE, "", "waiting, engaged, held or out")                                  \
    X(TARGET, "_target", "the setpoint, trimmed and on its ramp")                  \
    X(ERROR, "_error", "setpoint less what is measured")                           \
    X(OUTPUT, "_output", "what it drives the actuator with")                       \
    X(P, "_p", "the proportional term")                                            \
    X(I, "_i", "the integral term")                                                \
    X(D, "_d", "the derivative term")                                              \
    X(UNLIMITED, "_asked", "the sum of the terms and the feed, before the limits") \
    X(SATURATED, "_saturated", "whether less is driven than is asked")

enum {
#define RGP_TERM_ENUM(name, ending, help) RGP_TERM_##name,
    RGP_TERM_LIST(RGP_TERM_ENUM)
#undef RGP_TERM_ENUM
        RGP_TERMS
};

#define RGP_TERMS_SIMPLE (RGP_TERM_OUTPUT + 1u) /* of onoff and nudge */

/* News that a step of the loop has to heed besides its inputs: everything rests; a loop that is out shall wait again;
 * settings have changed; somebody else drives the actuator. */
enum { RGP_NEWS_STOPPED = 1, RGP_NEWS_ANEW = 2, RGP_NEWS_RETUNED = 4, RGP_NEWS_TAKEN = 8 };

/* Between a loop and whoever drives the actuator. The state of every kind of loop begins with it. */
typedef struct rgp_loop_link {
    float taken;    /* what was really driven last, in output units; a step leaves there what it drives with */
    uint8_t news;   /* RGP_NEWS_...; ANEW and RETUNED the step takes back */
    uint8_t phase;  /* left by the step: RGP_LOOP_... */
    uint8_t reason; /* left by the step, of OUT: RGP_CUT_... */
    uint8_t reserved;
} rgp_loop_link;

typedef struct rgp_loop_input {
    rgp_reading setpoint, measured, feed_forward;
    float since; /* seconds since `measured` was new before */
    bool same;   /* it is not new: the controller does not step, and its output stands */
} rgp_loop_input;

typedef struct rgp_pid_loop_config {
    rgp_loop_config loop;
    rgp_pid_config pid;
} rgp_pid_loop_config;

typedef struct rgp_pid_loop_state {
    rgp_loop_link link;
    rgp_loop_state loop;
    rgp_pid_state pid;
} rgp_pid_loop_state;

typedef struct rgp_onoff_loop_config {
    rgp_loop_config loop;
    rgp_onoff_config onoff;
} rgp_onoff_loop_config;

typedef struct rgp_onoff_loop_state {
    rgp_loop_link link;
    rgp_loop_state loop;
    rgp_onoff_state onoff;
} rgp_onoff_loop_state;

typedef struct rgp_nudge_loop_config {
    rgp_loop_config loop;
    rgp_nudge_config nudge;
} rgp_nudge_loop_config;

typedef struct rgp_nudge_loop_state {
    rgp_loop_link link;
    rgp_loop_state loop;
    rgp_nudge_state nudge;
} rgp_nudge_loop_state;

/* RGP_E_CONFIG when a setting of either part is not sound. */
rgp_status rgp_pid_loop_check(const rgp_pid_loop_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_pid_loop_fault(const rgp_pid_loop_config *config);

rgp_status rgp_onoff_loop_check(const rgp_onoff_loop_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_onoff_loop_fault(const rgp_onoff_loop_config *config);

rgp_status rgp_nudge_loop_check(const rgp_nudge_loop_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_nudge_loop_fault(const rgp_nudge_loop_config *config);

/* The link stays as it is: what is driven does not change by that. */
void rgp_pid_loop_reset(rgp_pid_loop_state *state);
void rgp_onoff_loop_reset(rgp_onoff_loop_state *state);
void rgp_nudge_loop_reset(rgp_nudge_loop_state *state);

/* dt in seconds, above 0: engaging, cutting out, holding and the ramp go on in every step, the controller on a new
 * measurement only, by `since`. `term` and `quality`: RGP_TERMS or RGP_TERMS_SIMPLE places. True when the loop simply
 * goes on driving: nothing is to be told of it, and nobody else has to be asked. */
bool rgp_onoff_loop_step(const rgp_onoff_loop_config *config, rgp_onoff_loop_state *state, const rgp_loop_input *in,
                         float dt, float *term, rgp_quality *quality);
bool rgp_nudge_loop_step(const rgp_nudge_loop_config *config, rgp_nudge_loop_state *state, const rgp_loop_input *in,
                         float dt, float *term, rgp_quality *quality);

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
                                 state->pid.output - (link->taken - config->loop.bias)};
    const rgp_reading output = rgp_pid_step(&config->pid, &state->pid, &input, in->since);
    const float driven = rgp_limit(output.value + config->loop.bias, config->pid.low, config->pid.high);
    state->loop.target = target.value;
    state->loop.output = link->taken = driven;
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
