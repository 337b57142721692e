/* Inside the engine: claims, as rules and sequences make them. */
#ifndef RIGPULSE_ENGINE_CLAIMS_H
#define RIGPULSE_ENGINE_CLAIMS_H

#include "inside.h"

/* `by`: the rule, or RP_REF_NONE. */
void rp_engine_claim(rp_engine *e, uint32_t by, uint16_t claim, float value, uint64_t until_us);

/* Of a timed action with more than one time: which of them it is in. Gives when that ends. */
uint64_t rp_engine_repeat(rp_engine *e, uint32_t claim, const rp_image_action *action);

/* A timed action does not end before, or goes on or off. */
static inline void heed_end(const rp_engine *e, uint64_t end_us)
{
    rp_engine_head *const head = part_head(e);
    if (end_us < head->next_end_us) {
        head->next_end_us = end_us;
    }
}

/* The amount that an action asks for; of a toggle and a step, from what the latch says now. */
float rp_engine_amount(const rp_engine *e, const rp_image_action *action);

#endif
