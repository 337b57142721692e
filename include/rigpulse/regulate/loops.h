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
    X(SATURATED, "_saturated", "whether less is driven than is asked, or the integral was cut at a limit")

enum {
#define RGP_TERM_ENUM(name, ending, help) RGP_TERM_##name,
    RGP_TERM_LIST(RGP_TERM_ENUM)
#undef RGP_TERM_ENUM
        RGP_TERMS
};

#define RGP_TERMS_SIMPLE (RGP_TERM_OUTPUT + 1u) /* of onoff and nudge */

/* News that a step of the loop has to heed besides its inputs, as bits. */
enum {
    RGP_NEWS_STOPPED = 1, /* everything rests */
    RGP_NEWS_ANEW = 2,    /* a loop that is out shall wait again */
    RGP_NEWS_RETUNED = 4, /* settings have changed */
    RGP_NEWS_TAKEN = 8    /* somebody else drives the actuator */
};

/* Between a loop and whoever drives the actuator. The state of every kind of loop begins with it. */
typedef struct rgp_loop_link {
    float driven;     /* what was really driven last, in output units; a step leaves there what it drives with */
    uint8_t news;     /* RGP_NEWS_...; ANEW and RETUNED the step takes back */
    uint8_t phase;    /* left by the step: RGP_LOOP_... */
    uint8_t reason;   /* left by the step, of OUT: RGP_TRIP_... */
    uint8_t reserved; /* 0 */
} rgp_loop_link;

/* The inputs of one step. */
typedef struct rgp_loop_input {
    rgp_reading setpoint, measured, feed_forward; /* the first two in one unit, the third in output units */
    float since;                                  /* seconds since `measured` was new before */
    bool same; /* it is not new: the controller does not step, and its output stands */
} rgp_loop_input;

/* A PID controller and its loop, as their settings and as their state. */
typedef struct rgp_pid_loop_config {
    rgp_loop_config loop; /* what every loop has */
    rgp_pid_config pid;   /* its controller */
} rgp_pid_loop_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_pid_loop_state {
    rgp_loop_link link;  /* to whoever drives; first in every kind */
    rgp_loop_state loop; /* of what every loop has */
    rgp_pid_state pid;   /* of its controller */
} rgp_pid_loop_state;

/* A two-position controller and its loop. */
typedef struct rgp_onoff_loop_config {
    rgp_loop_config loop;   /* what every loop has */
    rgp_onoff_config onoff; /* its controller */
} rgp_onoff_loop_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_onoff_loop_state {
    rgp_loop_link link;    /* to whoever drives; first in every kind */
    rgp_loop_state loop;   /* of what every loop has */
    rgp_onoff_state onoff; /* of its controller */
} rgp_onoff_loop_state;

/* An incremental controller and its loop. */
typedef struct rgp_nudge_loop_config {
    rgp_loop_config loop;   /* what every loop has */
    rgp_nudge_config nudge; /* its controller */
} rgp_nudge_loop_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_nudge_loop_state {
    rgp_loop_link link;    /* to whoever drives; first in every kind */
    rgp_loop_state loop;   /* of what every loop has */
    rgp_nudge_state nudge; /* of its controller */
} rgp_nudge_loop_state;

/* RGP_E_CONFIG when a setting of either part is not sound. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_pid_loop_check(const rgp_pid_loop_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_pid_loop_fault(const rgp_pid_loop_config *config);

/* RGP_E_CONFIG when a setting is outside its range, else RGP_OK. Only the settings are looked at. */
rgp_status rgp_onoff_loop_check(const rgp_onoff_loop_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_onoff_loop_fault(const rgp_onoff_loop_config *config);

/* RGP_E_CONFIG when a setting is outside its range, else RGP_OK. Only the settings are looked at. */
rgp_status rgp_nudge_loop_check(const rgp_nudge_loop_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_nudge_loop_fault(const rgp_nudge_loop_config *config);

/* Loop and controller know nothing any more, and wait. The link stays as it is: what is driven does not change by that.
 * Memory of zeroes is a loop of which nothing has been driven. */
void rgp_pid_loop_reset(rgp_pid_loop_state *state);
void rgp_onoff_loop_reset(rgp_onoff_loop_state *state);
void rgp_nudge_loop_reset(rgp_nudge_loop_state *state);

/* dt in seconds, above 0: engaging, cutting out, holding and the ramp go on in every step, the controller on a new
 * measurement only, by `since`. `term` and `quality`: RGP_TERMS or RGP_TERMS_SIMPLE places. True when the loop simply
 * goes on driving: nothing is to be told of it, and nobody else has to be asked.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
bool rgp_onoff_loop_step(const rgp_onoff_loop_config *config, rgp_onoff_loop_state *state, const rgp_loop_input *in,
                         float dt, float *term, rgp_quality *quality);

/* As rgp_onoff_loop_step() does; dt above 0.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
bool rgp_nudge_loop_step(const rgp_nudge_loop_config *config, rgp_nudge_loop_state *state, const rgp_loop_input *in,
                         float dt, float *term, rgp_quality *quality);

/* As rgp_onoff_loop_step() does; dt above 0.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline bool rgp_pid_loop_step(const rgp_pid_loop_config *config, rgp_pid_loop_state *state,
                                     const rgp_loop_input *in, float dt, float *RGP_RESTRICT term,
                                     rgp_quality *quality);

RGP_DECLARATIONS_END

#include "rigpulse/inside/regulate/loops.h"

#endif
