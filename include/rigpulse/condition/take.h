/* take: readings that count only while a condition is true, as of a sensor that is asked while its arm stands still.
 *
 * While it is not, or cannot be known, the last one that was taken stands, as held; before there is one it is missing.
 */
#ifndef RIGPULSE_CONDITION_TAKE_H
#define RIGPULSE_CONDITION_TAKE_H

#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_take_config {
    uint32_t reserved; /* 0 */
} rp_take_config;

typedef struct rp_take_state {
    float value;
    uint32_t known;
} rp_take_state;

/* RP_E_CONFIG unless the reserved field is 0. */
static inline rp_status rp_take_check(const rp_take_config *config)
{
    return config->reserved == 0 ? RP_OK : RP_E_CONFIG;
}

static inline void rp_take_reset(rp_take_state *state)
{
    *state = (rp_take_state){0.0f, 0};
}

/* A bad reading while the condition is true is passed on as it is. dt is not used. */
static inline rp_reading rp_take_step(const rp_take_config *config, rp_take_state *state, rp_reading in,
                                      rp_reading condition, float dt)
{
    (void)config;
    (void)dt;
    if (rp_usable(condition.quality) && condition.value != 0.0f) {
        if (rp_usable(in.quality)) {
            state->value = in.value;
            state->known = 1;
        }
        return in;
    }
    return (rp_reading){state->value, state->known ? RP_HELD : RP_MISSING};
}

#endif
