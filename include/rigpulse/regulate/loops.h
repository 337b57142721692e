/* loops: each controller with what every loop has around it (loop.h), as the engine runs them. A step gives the terms
 * as numbers and their qualities, in the order of RP_TERM_...; those of onoff and nudge end with the output.
 *
 * Output and terms are missing while the loop does not drive; while it is held the last output stands, as held. */
#ifndef RIGPULSE_REGULATE_LOOPS_H
#define RIGPULSE_REGULATE_LOOPS_H

#include "rigpulse/regulate/loop.h"
#include "rigpulse/regulate/nudge.h"
#include "rigpulse/regulate/onoff.h"
#include "rigpulse/regulate/pid.h"

#include <string.h>

/* X(name, the end of its name in a rig, what it is) */
#define RP_TERM_LIST(X)                                                        \
    X(PHASE, "", "waiting, engaged, held or out")                              \
    X(TARGET, "_target", "the setpoint, trimmed and on its ramp")              \
    X(ERROR, "_error", "setpoint less what is measured")                       \
    X(OUTPUT, "_output", "what it drives the actuator with")                   \
    X(P, "_p", "the proportional term")                                        \
    X(I, "_i", "the integral term")                                            \
    X(D, "_d", "the derivative term")                                          \
    X(ASKED, "_asked", "the sum of the terms and the feed, before the limits") \
    X(SATURATED, "_saturated", "whether less is driven than is asked")

enum {
#define RP_TERM_ENUM(name, ending, help) RP_TERM_##name,
    RP_TERM_LIST(RP_TERM_ENUM)
#undef RP_TERM_ENUM
        RP_TERMS
};

#define RP_TERMS_SIMPLE (RP_TERM_OUTPUT + 1u) /* of onoff and nudge */

/* News that a step of the loop has to heed besides its inputs: everything rests; a loop that is out shall wait again;
 * settings have changed; somebody else drives the actuator. */
enum { RP_NEWS_STOPPED = 1, RP_NEWS_ANEW = 2, RP_NEWS_RETUNED = 4, RP_NEWS_TAKEN = 8 };

/* Between a loop and whoever drives the actuator. The state of every kind of loop begins with it. */
typedef struct rp_loop_link {
    float taken;    /* what was really driven last, in output units; a step leaves there what it drives with */
    uint8_t news;   /* RP_NEWS_...; ANEW and RETUNED the step takes back */
    uint8_t phase;  /* left by the step: RP_LOOP_... */
    uint8_t reason; /* left by the step, of OUT: RP_CUT_... */
    uint8_t reserved;
} rp_loop_link;

typedef struct rp_loop_input {
    rp_reading setpoint, measured, feed;
    float since; /* seconds since `measured` was new before */
    bool same;   /* it is not new: the controller does not step, and its output stands */
} rp_loop_input;

typedef struct rp_pid_loop_config {
    rp_loop_config loop;
    rp_pid_config pid;
} rp_pid_loop_config;

typedef struct rp_pid_loop_state {
    rp_loop_link link;
    rp_loop_state loop;
    rp_pid_state pid;
} rp_pid_loop_state;

typedef struct rp_onoff_loop_config {
    rp_loop_config loop;
    rp_onoff_config onoff;
} rp_onoff_loop_config;

typedef struct rp_onoff_loop_state {
    rp_loop_link link;
    rp_loop_state loop;
    rp_onoff_state onoff;
} rp_onoff_loop_state;

typedef struct rp_nudge_loop_config {
    rp_loop_config loop;
    rp_nudge_config nudge;
} rp_nudge_loop_config;

typedef struct rp_nudge_loop_state {
    rp_loop_link link;
    rp_loop_state loop;
    rp_nudge_state nudge;
} rp_nudge_loop_state;

/* RP_E_CONFIG when a setting of either part is not sound. */
rp_status rp_pid_loop_check(const rp_pid_loop_config *config);
rp_status rp_onoff_loop_check(const rp_onoff_loop_config *config);
rp_status rp_nudge_loop_check(const rp_nudge_loop_config *config);

/* The link stays as it is: what is driven does not change by that. */
void rp_pid_loop_reset(rp_pid_loop_state *state);
void rp_onoff_loop_reset(rp_onoff_loop_state *state);
void rp_nudge_loop_reset(rp_nudge_loop_state *state);

/* dt in seconds, above 0: engaging, cutting out, holding and the ramp go on in every step, the controller on a new
 * measurement only, by `since`. `term` and `quality`: RP_TERMS or RP_TERMS_SIMPLE places. True when the loop simply
 * goes on driving: nothing is to be told of it, and nobody else has to be asked. */
bool rp_onoff_loop_step(const rp_onoff_loop_config *config, rp_onoff_loop_state *state, const rp_loop_input *in,
                        float dt, float *term, rp_quality *quality);
bool rp_nudge_loop_step(const rp_nudge_loop_config *config, rp_nudge_loop_state *state, const rp_loop_input *in,
                        float dt, float *term, rp_quality *quality);

/* The part of rp_pid_loop_step() unless the loop simply goes on. */
bool rp_pid_loop_move(const rp_pid_loop_config *config, rp_pid_loop_state *state, const rp_loop_input *in, float dt,
                      float *term, rp_quality *quality);

static inline bool rp_pid_loop_step(const rp_pid_loop_config *config, rp_pid_loop_state *state, const rp_loop_input *in,
                                    float dt, float *restrict term, rp_quality *quality)
{
    const rp_reading target = {in->setpoint.value + config->loop.trim,
                               rp_worst(in->setpoint.quality, in->feed.quality)};
    const float error = target.value - in->measured.value, bound = state->loop.bound;
    const rp_quality worst = rp_worst(target.quality, in->measured.quality);
    rp_loop_link *const link = &state->link;
    if (link->news || in->same || !rp_usable(worst) || !(error < bound && error > -bound)) {
        const rp_loop_input given = *in; /* a copy, so that the way below can keep it in registers */
        return rp_pid_loop_move(config, state, &given, dt, term, quality);
    }
    const rp_pid_input input = {target, in->measured, in->feed.value, link->taken - config->loop.push};
    const rp_reading output = rp_pid_step(&config->pid, &state->pid, &input, in->since);
    const float driven = rp_limit(output.value + config->loop.push, config->pid.low, config->pid.high);
    state->loop.target = target.value;
    state->loop.output = link->taken = driven;
    term[RP_TERM_TARGET] = target.value;
    term[RP_TERM_ERROR] = error;
    term[RP_TERM_OUTPUT] = driven;
    term[RP_TERM_P] = state->pid.p;
    term[RP_TERM_I] = state->pid.i;
    term[RP_TERM_D] = state->pid.d;
    term[RP_TERM_ASKED] = state->pid.asked;
    term[RP_TERM_SATURATED] = (float)state->pid.saturated;
    memset(quality + RP_TERM_TARGET, output.quality, RP_TERMS - RP_TERM_TARGET);
    quality[RP_TERM_TARGET] = in->setpoint.quality;
    quality[RP_TERM_ERROR] = rp_worst(in->setpoint.quality, in->measured.quality);
    return rp_usable(output.quality);
}

#endif
