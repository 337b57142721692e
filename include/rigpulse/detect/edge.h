/* edge (edge detector): a condition becoming true, becoming false, or either: 1 for one step, else 0.
 *
 * The first usable input sets the state without an edge. A bad input neither steps the state nor gives
 * an edge, so a change that happened meanwhile is told once, on the first usable input after it. */
#ifndef RIGPULSE_DETECT_EDGE_H
#define RIGPULSE_DETECT_EDGE_H

#include "rigpulse/linkage.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

enum { RGP_EDGE_RISE = 1, RGP_EDGE_FALL = 2, RGP_EDGE_EITHER = 3 };

typedef struct rgp_edge_config {
    uint32_t which; /* RGP_EDGE_RISE, RGP_EDGE_FALL or RGP_EDGE_EITHER */
} rgp_edge_config;

typedef struct rgp_edge_state {
    uint8_t known;
    uint8_t is;
} rgp_edge_state;

/* RGP_E_CONFIG when `which` is none of the three. */
rgp_status rgp_edge_check(const rgp_edge_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_edge_fault(const rgp_edge_config *config);

void rgp_edge_reset(rgp_edge_state *state);

/* The input is true when it is not 0. dt in seconds; dt = 0 steps no state and gives no edge. */
static inline rgp_reading rgp_edge_step(const rgp_edge_config *config, rgp_edge_state *state, rgp_reading in, float dt)
{
    if (!rgp_usable(in.quality) || dt <= 0.0f) {
        return rgp_reading_of(0.0f, in.quality);
    }
    const uint8_t is = in.value != 0.0f;
    const uint32_t edge = is ? RGP_EDGE_RISE : RGP_EDGE_FALL;
    const bool happened = state->known && is != state->is && (config->which & edge);
    state->known = 1;
    state->is = is;
    return rgp_reading_of(happened ? 1.0f : 0.0f, in.quality);
}

RGP_DECLARATIONS_END

#endif
