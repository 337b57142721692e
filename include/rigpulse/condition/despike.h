/* despike: the median of the last N readings. A disturbance of at most (N-1)/2 readings leaves no trace;
 * a lasting step comes through after (N+1)/2 readings.
 *
 * Before N readings have come, the median of those there are (the lower of the two middle ones when
 * their number is even), so the first reading passes as it is. A bad reading is passed on as bad, with
 * the last median as its number, and does not enter the window. */
#ifndef RIGPULSE_CONDITION_DESPIKE_H
#define RIGPULSE_CONDITION_DESPIKE_H

#include "rigpulse/reading.h"
#include "rigpulse/status.h"

#define RP_DESPIKE_WINDOW_MAX 31

typedef struct rp_despike_config {
    uint32_t window; /* readings; odd, 3 to 31 */
} rp_despike_config;

/* The first `filled` of kept[] are the readings as they came, a ring; the same readings in rising order
 * stand from kept[window]. Only the first 2 * window places are touched, so whoever is short of memory
 * may place just RP_DESPIKE_BYTES(window) bytes, aligned like a float. */
typedef struct rp_despike_state {
    uint16_t filled;
    uint16_t next;
    float kept[2 * RP_DESPIKE_WINDOW_MAX];
} rp_despike_state;

#define RP_DESPIKE_BYTES(window) (4u + 8u * (window))

/* RP_E_CONFIG when the window is even or not within 3 to 31. */
rp_status rp_despike_check(const rp_despike_config *config);

void rp_despike_reset(rp_despike_state *state);

/* dt in seconds; dt = 0 (the same moment again) steps no state. Bounded: at most 2 * window moves. */
static inline rp_reading rp_despike_step(const rp_despike_config *config, rp_despike_state *state, rp_reading in,
                                         float dt)
{
    const uint32_t window = config->window;
    float *const ring = state->kept;
    float *const sorted = state->kept + window;
    uint32_t filled = state->filled;

    if (!rp_usable(in.quality) || dt <= 0.0f) {
        if (filled == 0) {
            return (rp_reading){in.value, in.quality};
        }
        return (rp_reading){sorted[(filled - 1) / 2], in.quality};
    }

    /* Find the place that becomes free: behind the last while filling, else where the oldest stands. */
    uint32_t at;
    if (filled < window) {
        at = filled++;
        state->filled = (uint16_t)filled;
    } else {
        const float oldest = ring[state->next];
        at = 0;
        while (at + 1 < window && sorted[at] != oldest) {
            at++;
        }
    }
    ring[state->next] = in.value;
    state->next = (uint16_t)(state->next + 1u == window ? 0u : state->next + 1u);

    while (at > 0 && sorted[at - 1] > in.value) {
        sorted[at] = sorted[at - 1];
        at--;
    }
    while (at + 1 < filled && sorted[at + 1] < in.value) {
        sorted[at] = sorted[at + 1];
        at++;
    }
    sorted[at] = in.value;
    return (rp_reading){sorted[(filled - 1) / 2], in.quality};
}

#endif
