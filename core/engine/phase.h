/* Inside the engine: the phases of a tick, and when each is due. */
#ifndef RIGPULSE_ENGINE_PHASE_H
#define RIGPULSE_ENGINE_PHASE_H

#include "inside.h"

/* In the order of a tick, a file each: X(BIT, name of the file and of the function).
 *
 * A phase runs when its bit is due. What the image makes due in every tick stands in head.always and is worked out by
 * rgp__engine_arrange(). The others stand in head.due: who makes work sets the bit, and the phase that does it clears
 * it. When that phase is still to come the work is done in this tick, else in the next one, before it computes.
 *
 *               always, when                              set by                           cleared by
 *   LOSSES      -                                         losing, regaining               losses
 *   PARAMS      -                                         act                             params
 *   WATCH       a sensor is vetted                        -                               -
 *   EDGES       a switch is timed                         -                               -
 *   STATES      -                                         act, sequences                  states
 *   PACE, COMPUTE  all                                    -                               -
 *   NEWS        -                                         reset, relearning               news, at the end
 *   STOPS       there are stops                           -                               -
 *   CLAIMS      there are timed actions                   -                               -
 *   RULES       there are rules                           -                               -
 *   SEQUENCES   there are sequences                       -                               -
 *   DRIVES      there are continuous drives               -                               -
 *   OUTPUTS     something is shaped                       whoever changes a claim         arbitrate
 *   SHAPE, GUARD  something is shaped or bounded          -                               -
 *   LOOPS       a switch is timed                         follow                          publish
 *   FOLLOW      not all drives are loops that always      a loop that does not simply go  follow, which asks for it
 *               drive; only the hand may                  on, reset                       and has no phase of its own
 */
#define RGP__PHASE_LIST(X)        \
    X(LOSSES, losses)             \
    X(PARAMS, params)             \
    X(WATCH, watch)               \
    X(EDGES, edge_queue)          \
    X(STATES, states)             \
    X(PACE, pace)                 \
    X(COMPUTE, compute)           \
    X(NEWS, news)                 \
    X(STOPS, stops)               \
    X(CLAIMS, expire)             \
    X(RULES, rules)               \
    X(SEQUENCES, sequences)       \
    X(DRIVES, follow)             \
    X(OUTPUTS, arbitrate)         \
    X(SHAPE, output_conditioning) \
    X(GUARD, guard)               \
    X(LOOPS, publish)

enum {
#define RGP__PHASE(BIT, name) RGP__AT_##BIT,
    RGP__PHASE_LIST(RGP__PHASE)
#undef RGP__PHASE
        RGP__PHASES
};

enum {
#define RGP__PHASE(BIT, name) RGP__DUE_##BIT = 1u << RGP__AT_##BIT,
    RGP__PHASE_LIST(RGP__PHASE)
#undef RGP__PHASE
        RGP__DUE_FOLLOW = 1u << RGP__PHASES,
    RGP__DUE_CONDITIONING = RGP__DUE_SHAPE | RGP__DUE_GUARD
};

#define RGP__PHASE(BIT, name) void rgp__phase_##name(rgp_engine *e);
RGP__PHASE_LIST(RGP__PHASE)
#undef RGP__PHASE

#endif
