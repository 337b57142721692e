/* Moves: which of a controller's gains grow in a trial, and which shrink. */
#ifndef ANALYSIS_DIAGNOSIS_MOVES_H
#define ANALYSIS_DIAGNOSIS_MOVES_H

#include "stand.h"

/* X(NAME, kp, ki, kd): 1 grows, -1 shrinks, 0 stays. */
#define RGP_MOVE_LIST(X)         \
    X(ALL_LESS, -1, -1, -1)      \
    X(ALL_MORE, 1, 1, 1)         \
    X(PD_LESS, -1, 0, -1)        \
    X(PD_MORE, 1, 0, 1)          \
    X(P_LESS, -1, 0, 0)          \
    X(P_MORE, 1, 0, 0)           \
    X(I_LESS, 0, -1, 0)          \
    X(I_MORE, 0, 1, 0)           \
    X(D_LESS, 0, 0, -1)          \
    X(D_MORE, 0, 0, 1)           \
    X(PD_LESS_I_MORE, -1, 1, -1) \
    X(PD_MORE_I_LESS, 1, -1, 1)

enum {
#define RGP_MOVE(name, kp, ki, kd) RGP_MOVE_##name,
    RGP_MOVE_LIST(RGP_MOVE)
#undef RGP_MOVE
        RGP_MOVES
};

/* Sets of moves: a bit each. */
enum {
#define RGP_MOVE(name, kp, ki, kd) name = 1u << RGP_MOVE_##name,
    RGP_MOVE_LIST(RGP_MOVE)
#undef RGP_MOVE
        ANY = (1u << RGP_MOVES) - 1u
};

/* Gains after a move by a factor. */
rgp_pid_gains rgp_moved(const rgp_pid_gains *gains, uint32_t move, double by);

static inline bool rgp_is_moved(const rgp_pid_gains *a, const rgp_pid_gains *b)
{
    return a->kp != b->kp || a->ki != b->ki || a->kd != b->kd;
}

#define RGP_CALM 2.0 /* the sensitivity of a loop that has room */

/* The sensitivity of a loop, and of one on a third more gain, or dead time: the worst; INFINITY: it swings, or is more
 * sensitive than `most`. */
double rgp_worst_sensitivity(const rgp_stand *on, const rgp_pid_gains *gains, double most);

/* Of a loop that swings, or nearly: the least move among some after which it is calm so, or else the calmest. False: it
 * swings after all of them. */
bool rgp_calmed(const rgp_stand *on, const rgp_pid_gains *now, unsigned moves, rgp_pid_gains *calmed);

#endif
