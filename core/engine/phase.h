/* Inside the engine: the phases of a tick, and when each is due. */
#ifndef RIGPULSE_ENGINE_PHASE_H
#define RIGPULSE_ENGINE_PHASE_H

#include "inside.h"

/* A phase runs when one of its bits is due. What the image makes due in every tick stands in head.always and is worked
 * out by rgp__engine_arrange(). The others stand in head.due: who makes work sets the bit, and the phase that does it
 * clears it. When that phase is still to come the work is done in this tick, else in the next one, before it computes.
 *
 *   bit        phase          always, when                      set by                           cleared by
 *   LOSSES     losses         -                                 losing, regaining               losses
 *   PARAMS     params         -                                 act                              params
 *   TICK       pace, compute  all                                -                                -
 *   WATCH      watch          a sensor is vetted                -                                -
 *   EDGES      edge_queue     a switch is timed                 -                                -
 *   STATES     states         -                                 act, sequences                   states
 *   NEWS       news           -                                 reset, relearning                news, at the end
 *   STOPS      stops          there are stops                   -                                -
 *   CLAIMS     expire         there are timed actions           -                                -
 *   RULES      rules          there are rules                   -                                -
 *   SEQUENCES  sequences      there are sequences               -                                -
 *   DRIVES     follow         there are continuous drives       -                                -
 *   FOLLOW     (follow asks)  not all of them are loops that    a loop that does not simply go   follow
 *                             always drive; only the hand may   on, reset
 *   OUTPUTS    arbitrate      something is shaped               whoever changes a claim          arbitrate
 *   CONDITIONING  output_conditioning, guard: always when something is shaped or bounded
 *   LOOPS      publish        -                                 follow                           publish */
enum {
    RGP__DUE_TICK = 1u << 0,
    RGP__DUE_PARAMS = 1u << 1,
    RGP__DUE_WATCH = 1u << 2,
    RGP__DUE_EDGES = 1u << 3,
    RGP__DUE_STATES = 1u << 4,
    RGP__DUE_NEWS = 1u << 5,
    RGP__DUE_STOPS = 1u << 6,
    RGP__DUE_CLAIMS = 1u << 7,
    RGP__DUE_RULES = 1u << 8,
    RGP__DUE_SEQUENCES = 1u << 9,
    RGP__DUE_DRIVES = 1u << 10,
    RGP__DUE_FOLLOW = 1u << 11,
    RGP__DUE_OUTPUTS = 1u << 12,
    RGP__DUE_CONDITIONING = 1u << 13,
    RGP__DUE_LOOPS = 1u << 14,
    RGP__DUE_LOSSES = 1u << 15
};

typedef struct rgp__phase {
    uint32_t due;
    void (*run)(rgp_engine *e);
} rgp__phase;

/* In the order of a tick; a file each. */
void rgp__phase_losses(rgp_engine *e);
void rgp__phase_params(rgp_engine *e);
void rgp__phase_watch(rgp_engine *e);
void rgp__phase_edge_queue(rgp_engine *e);
void rgp__phase_states(rgp_engine *e);
void rgp__phase_pace(rgp_engine *e);
void rgp__phase_compute(rgp_engine *e);
void rgp__phase_news(rgp_engine *e);
void rgp__phase_stops(rgp_engine *e);
void rgp__phase_expire(rgp_engine *e);
void rgp__phase_rules(rgp_engine *e);
void rgp__phase_sequences(rgp_engine *e);
void rgp__phase_follow(rgp_engine *e);
void rgp__phase_arbitrate(rgp_engine *e);
void rgp__phase_output_conditioning(rgp_engine *e);
void rgp__phase_guard(rgp_engine *e);
void rgp__phase_publish(rgp_engine *e);

#endif
