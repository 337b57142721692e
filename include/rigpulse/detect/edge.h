/* edge: a condition becoming true, becoming false, or either: 1 for one step, else 0.
 *
 * The first usable input sets the state without an edge. A bad input neither steps the state nor gives
 * an edge, so a change that happened meanwhile is told once, on the first usable input after it. */
#ifndef RIGPULSE_DETECT_EDGE_H
#define RIGPULSE_DETECT_EDGE_H

#include "rigpulse/reading.h"
#include "rigpulse/status.h"

enum { RP_EDGE_RISE = 1, RP_EDGE_FALL = 2, RP_EDGE_EITHER = 3 };

typedef struct rp_edge_config {
    uint32_t which; /* RP_EDGE_RISE, RP_EDGE_FALL or RP_EDGE_EITHER */
} rp_edge_config;

typedef struct rp_edge_state {
    uint8_t known;
    uint8_t is;
} rp_edge_state;

/* RP_E_CONFIG when `which` is none of the three. */
rp_status rp_edge_check(const rp_edge_config *config);

void rp_edge_reset(rp_edge_state *state);

/* The input is true when it is not 0. dt in seconds; dt = 0 steps no state and gives no edge. */
static inline rp_reading rp_edge_step(const rp_edge_config *config, rp_edge_state *state, rp_reading in, float dt)
{
    if (!rp_usable(in.quality) || dt <= 0.0f) {
        return (rp_reading){0.0f, in.quality};
    }
    const uint8_t is = in.value != 0.0f;
    const uint32_t edge = is ? RP_EDGE_RISE : RP_EDGE_FALL;
    const bool happened = state->known && is != state->is && (config->which & edge);
    state->known = 1;
    state->is = is;
    return (rp_reading){happened ? 1.0f : 0.0f, in.quality};
}

#endif
