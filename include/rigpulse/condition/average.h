/* average (moving average): the mean of the last N readings. Before N have come, of those there are. A bad reading is
 * passed on as bad with the last mean, and does not enter; after as many in a row as the window is long, what was in it
 * is forgotten. The sum is made anew each time the window has gone round once, so that rounding does not pile up. */
#ifndef RIGPULSE_CONDITION_AVERAGE_H
#define RIGPULSE_CONDITION_AVERAGE_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

#define RGP_AVERAGE_WINDOW_MAX 64

typedef struct rgp_average_config {
    uint32_t window; /* readings; 2 to 64 */
} rgp_average_config;

/* Only the first `window` places of kept[] are touched: RGP_AVERAGE_BYTES(window) bytes are enough. */
typedef struct rgp_average_state {
    uint8_t filled, next;
    uint8_t missed; /* bad readings in a row */
    uint8_t reserved;
    float sum;
    float kept[RGP_AVERAGE_WINDOW_MAX];
} rgp_average_state;

#define RGP_AVERAGE_BYTES(window) (8u + 4u * (window))

/* RGP_E_CONFIG when the window is not within 2 to 64. */
rgp_status rgp_average_check(const rgp_average_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_average_fault(const rgp_average_config *config);

void rgp_average_reset(rgp_average_state *state);

/* Takes a usable reading in. */
void rgp_average_take(const rgp_average_config *config, rgp_average_state *state, float value);

/* dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_average_step(const rgp_average_config *config, rgp_average_state *state, rgp_reading in,
                                           float dt)
{
    if (dt > 0.0f) {
        if (rgp_usable(in.quality)) {
            rgp_average_take(config, state, in.value);
        } else if (++state->missed >= config->window) {
            rgp_average_reset(state);
        }
    }
    const float n = (float)state->filled;
    return state->filled ? rgp_number(state->sum / n, in.quality) : in;
}

RGP_DECLARATIONS_END

#endif
