/* edge (edge detector): a condition becoming true, becoming false, or either: 1 for one step, else 0.
 *
 * The first usable input sets the state without an edge. A bad input neither steps the state nor gives
 * an edge, so a change that happened meanwhile is told once, on the first usable input after it. */
#ifndef RIGPULSE_DETECT_EDGE_H
#define RIGPULSE_DETECT_EDGE_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

enum { RGP_EDGE_RISE = 1, RGP_EDGE_FALL = 2, RGP_EDGE_EITHER = 3 }; /* to true, to false, or both, as bits */

/* The settings: the caller's, and only read. */
typedef struct rgp_edge_config {
    uint32_t which; /* RGP_EDGE_RISE, RGP_EDGE_FALL or RGP_EDGE_EITHER */
} rgp_edge_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_edge_state {
    uint8_t known; /* 1: there was a usable input */
    uint8_t is;    /* 1: the last one was true */
} rgp_edge_state;

/* RGP_E_CONFIG when `which` is none of the three. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_edge_check(const rgp_edge_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_edge_fault(const rgp_edge_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_edge_reset(rgp_edge_state *state);

/* The input is true when it is not 0. dt in seconds; dt = 0 steps no state and gives no edge.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_reading rgp_edge_step(const rgp_edge_config *config, rgp_edge_state *state, rgp_reading in, float dt);

RGP_DECLARATIONS_END

#include "rigpulse/inside/detect/edge.h"

#endif
