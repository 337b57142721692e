/* The rig of the benchmark as one would write it by hand in straight C: the same windows, tables, qualities,
 * margins, timed actions and holdoffs. */
#ifndef PERF_HAND_H
#define PERF_HAND_H

#include "readings.h"

typedef struct hand_chain {
    float ring[5];
    float output, lost, gap, last_dt, share;
    uint8_t filled, next, missed, quality, primed;
} hand_chain;

typedef struct hand_rule {
    uint64_t acts_until, ready_at;
} hand_rule;

/* A loop by hand: its terms, to be looked at; what it measured; how long that has been bad; whether it drives. */
typedef struct hand_loop {
    float error, p, i, d, asked, output;
    float lost, before, slope, share, share_dt, bad_for;
    uint8_t primed, engaged, out, saturated;
} hand_loop;

typedef struct hand_sequence {
    uint64_t since;
    uint8_t step, runs;
} hand_sequence;

typedef struct hand {
    hand_chain chain[CHAINS];
    uint8_t band[SETS], known[SETS];
    hand_rule rule[SETS];
    float output[SETS + SEQUENCES + LOOPS];
    hand_sequence sequence[SEQUENCES];
    hand_loop loop[LOOPS];
    int loops; /* that there are: none, or all */
    uint8_t awaited[SEQUENCES];
    float angle, angle_lost, angle_gap;
    uint8_t angled;
    uint64_t last_us;
    uint8_t started;
} hand;

/* One step of the controller alone, to 6 cm, driving 0 to 100. `driven`: what was driven last. */
float hand_pid(hand_loop *l, float measured, uint8_t quality, float driven, float dt);

void hand_tick(hand *h, uint64_t now_us, const rgp_sample *sample);

#endif
