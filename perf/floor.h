/* The rig of the benchmark as an expert would write it for just this device: no qualities, a missing reading is the
 * last one again, medians without branches. In two ways: channel by channel, and all chains side by side. Both read and
 * write through the port, as the engine does. */
#ifndef PERF_FLOOR_H
#define PERF_FLOOR_H

#include "readings.h"

#include <stdbool.h>

#define WINDOW 5

typedef struct floor_chain {
    float ring[WINDOW], output;
} floor_chain;

typedef struct floor_set {
    int band;
    uint64_t acts_until, ready_at;
} floor_set;

typedef struct floor_sequence {
    int step;
    bool awaited;
    uint64_t since;
} floor_sequence;

typedef struct floor_loop {
    float i, before, slope;
} floor_loop;

typedef struct floor_rig {
    int next, loops;
    bool begun;
    float raw[READINGS];
    floor_chain chain[CHAINS];
    float lane_ring[WINDOW][CHAINS], depth[CHAINS]; /* of the other way: by field */
    floor_set set[SETS];
    floor_sequence sequence[SEQUENCES];
    floor_loop loop[LOOPS];
    float output[SETS + SEQUENCES + LOOPS], angle;
} floor_rig;

void floor_tick(floor_rig *f, const rgp_port *port);
void floor_tick_lanes(floor_rig *f, const rgp_port *port);

#endif
