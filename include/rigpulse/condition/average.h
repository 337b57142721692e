/* average: the mean of the last N readings. Before N have come, of those there are. A bad reading is passed on as bad
 * with the last mean, and does not enter; after as many in a row as the window is long, what was in it is forgotten.
 * The sum is made anew each time the window has gone round once, so that rounding does not pile up. */
#ifndef RIGPULSE_CONDITION_AVERAGE_H
#define RIGPULSE_CONDITION_AVERAGE_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

#define RP_AVERAGE_WINDOW_MAX 64

typedef struct rp_average_config {
    uint32_t window; /* readings; 2 to 64 */
} rp_average_config;

/* Only the first `window` places of kept[] are touched: RP_AVERAGE_BYTES(window) bytes are enough. */
typedef struct rp_average_state {
    uint8_t filled, next;
    uint8_t missed; /* bad readings in a row */
    uint8_t reserved;
    float sum;
    float kept[RP_AVERAGE_WINDOW_MAX];
} rp_average_state;

#define RP_AVERAGE_BYTES(window) (8u + 4u * (window))

/* RP_E_CONFIG when the window is not within 2 to 64. */
rp_status rp_average_check(const rp_average_config *config);

void rp_average_reset(rp_average_state *state);

/* Takes a usable reading in. */
void rp_average_take(const rp_average_config *config, rp_average_state *state, float value);

/* dt in seconds; dt = 0 steps no state. */
static inline rp_reading rp_average_step(const rp_average_config *config, rp_average_state *state, rp_reading in,
                                         float dt)
{
    if (dt > 0.0f) {
        if (rp_usable(in.quality)) {
            rp_average_take(config, state, in.value);
        } else if (++state->missed >= config->window) {
            rp_average_reset(state);
        }
    }
    const float n = (float)state->filled;
    return state->filled ? rp_number(state->sum / n, in.quality) : in;
}

#endif
