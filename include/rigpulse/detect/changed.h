/* changed: a named value (a band, a switch) becoming any other: 1 for one step, else 0.
 *
 * As for an edge, the first usable input sets the state without a change, and a bad one neither steps it nor gives one.
 */
#ifndef RIGPULSE_DETECT_CHANGED_H
#define RIGPULSE_DETECT_CHANGED_H

#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_changed_config {
    uint32_t reserved; /* 0 */
} rp_changed_config;

typedef struct rp_changed_state {
    float last;
    uint32_t known;
} rp_changed_state;

/* RP_E_CONFIG unless the reserved field is 0. */
static inline rp_status rp_changed_check(const rp_changed_config *config)
{
    return config->reserved == 0 ? RP_OK : RP_E_CONFIG;
}

static inline void rp_changed_reset(rp_changed_state *state)
{
    *state = (rp_changed_state){0.0f, 0};
}

/* dt in seconds; dt = 0 steps no state and gives no change. */
static inline rp_reading rp_changed_step(const rp_changed_config *config, rp_changed_state *state, rp_reading in,
                                         float dt)
{
    (void)config;
    if (!rp_usable(in.quality) || dt <= 0.0f) {
        return (rp_reading){0.0f, in.quality};
    }
    const bool changed = state->known && in.value != state->last;
    *state = (rp_changed_state){in.value, 1};
    return (rp_reading){changed ? 1.0f : 0.0f, in.quality};
}

#endif
