/* The rig of the benchmark as one would write it by hand in straight C: the same windows, tables, qualities,
 * margins, timed actions and holdoffs. */
#ifndef PERF_HAND_H
#define PERF_HAND_H

#include "readings.h"

typedef struct hand_chain {
    float ring[5];
    float output, gap, last_dt, share;
    uint8_t filled, next, missed, quality, primed;
} hand_chain;

typedef struct hand_rule {
    uint64_t acts_until, ready_at;
} hand_rule;

typedef struct hand_sequence {
    uint64_t since;
    uint8_t step, runs;
} hand_sequence;

typedef struct hand {
    hand_chain chain[CHAINS];
    uint8_t band[SETS], known[SETS];
    hand_rule rule[SETS];
    float output[SETS + SEQUENCES];
    hand_sequence sequence[SEQUENCES];
    uint8_t awaited[SEQUENCES];
    float angle, angle_gap;
    uint8_t angled;
    uint64_t last_us;
    uint8_t started;
} hand;

void hand_tick(hand *h, uint64_t now_us, const rp_sample *sample);

#endif
