/* take (sample and hold): readings that count only while a condition is true, as of a sensor that is asked while its
 * arm stands still.
 *
 * While it is not, or cannot be known, the last one that was taken stands, as held; before there is one it is missing.
 */
#ifndef RIGPULSE_CONDITION_TAKE_H
#define RIGPULSE_CONDITION_TAKE_H

#include "rigpulse/linkage.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_take_config {
    uint32_t reserved; /* 0 */
} rgp_take_config;

typedef struct rgp_take_state {
    float value;
    uint32_t known;
} rgp_take_state;

/* RGP_E_CONFIG unless the reserved field is 0. */
static inline const char *rgp_take_fault(const rgp_take_config *c)
{
    return !(c->reserved == 0) ? RGP_WORDS("reserved: 0") : NULL;
}

static inline rgp_status rgp_take_check(const rgp_take_config *config)
{
    return rgp_take_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

static inline void rgp_take_reset(rgp_take_state *state)
{
    state->value = 0.0f;
    state->known = 0;
}

/* A bad reading while the condition is true is passed on as it is. dt is not used. */
static inline rgp_reading rgp_take_step(const rgp_take_config *config, rgp_take_state *state, rgp_reading in,
                                        rgp_reading condition, float dt)
{
    (void)config;
    (void)dt;
    if (rgp_usable(condition.quality) && condition.value != 0.0f) {
        if (rgp_usable(in.quality)) {
            state->value = in.value;
            state->known = 1;
        }
        return in;
    }
    return rgp_reading_of(state->value, state->known ? RGP_HELD : RGP_MISSING);
}

RGP_DECLARATIONS_END

#endif
