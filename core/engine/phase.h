/* Inside the engine: the phases of a tick, and when each is due. */
#ifndef RIGPULSE_ENGINE_PHASE_H
#define RIGPULSE_ENGINE_PHASE_H

#include "inside.h"

/* A phase runs when one of its bits is due. What the image makes due in every tick stands in head.always and is worked
 * out by rp_engine_arrange(). The others stand in head.due: who makes work sets the bit, and the phase that does it
 * clears it. When that phase is still to come the work is done in this tick, else in the next one, before it computes.
 *
 *   bit        phase          always, when                      set by                           cleared by
 *   PARAMS     params         -                                 act                              params
 *   TICK       pace, compute  all                                -                                -
 *   WATCH      watch          a sensor is vetted                -                                -
 *   EDGES      gather         a switch is timed                 -                                -
 *   STATES     states         -                                 act, sequences                   states
 *   NEWS       news           -                                 reset, relearning                news, when all have
 * learned STOPS      stops          there are stops                   -                                - CLAIMS expire
 * there are timed actions           -                                - RULES      rules          there are rules - -
 *   SEQUENCES  sequences      there are sequences               -                                -
 *   DRIVES     follow         there are continuous drives       -                                -
 *   FOLLOW     (follow asks)  not all of them are loops that    a loop that does not simply go   follow
 *                             always drive; only the hand may   on, reset
 *   OUTPUTS    arbitrate      something is shaped               whoever changes a claim          arbitrate
 *   SHAPE      shape, guard   something is shaped or bounded    -                                -
 *   LOOPS      publish        -                                 follow                           publish */
enum {
    RP_DUE_TICK = 1u << 0,
    RP_DUE_PARAMS = 1u << 1,
    RP_DUE_WATCH = 1u << 2,
    RP_DUE_EDGES = 1u << 3,
    RP_DUE_STATES = 1u << 4,
    RP_DUE_NEWS = 1u << 5,
    RP_DUE_STOPS = 1u << 6,
    RP_DUE_CLAIMS = 1u << 7,
    RP_DUE_RULES = 1u << 8,
    RP_DUE_SEQUENCES = 1u << 9,
    RP_DUE_DRIVES = 1u << 10,
    RP_DUE_FOLLOW = 1u << 11,
    RP_DUE_OUTPUTS = 1u << 12,
    RP_DUE_SHAPE = 1u << 13,
    RP_DUE_LOOPS = 1u << 14
};

typedef struct rp_phase {
    uint32_t due;
    void (*run)(rp_engine *e);
} rp_phase;

/* In the order of a tick; a file each. */
void rp_phase_params(rp_engine *e);
void rp_phase_watch(rp_engine *e);
void rp_phase_gather(rp_engine *e);
void rp_phase_states(rp_engine *e);
void rp_phase_pace(rp_engine *e);
void rp_phase_compute(rp_engine *e);
void rp_phase_news(rp_engine *e);
void rp_phase_stops(rp_engine *e);
void rp_phase_expire(rp_engine *e);
void rp_phase_rules(rp_engine *e);
void rp_phase_sequences(rp_engine *e);
void rp_phase_follow(rp_engine *e);
void rp_phase_arbitrate(rp_engine *e);
void rp_phase_shape(rp_engine *e);
void rp_phase_guard(rp_engine *e);
void rp_phase_publish(rp_engine *e);

#endif
