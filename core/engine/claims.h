/* Inside the engine: claims, as rules and sequences make them. */
#ifndef RIGPULSE_ENGINE_CLAIMS_H
#define RIGPULSE_ENGINE_CLAIMS_H

#include "inside.h"

/* `by`: the rule, or RGP_REF_NONE. */
void rgp__engine_claim(rgp_engine *e, uint32_t by, uint16_t claim, float value, uint64_t until_us);

/* Of a timed action with more than one time: which of them it is in. Gives when that ends. */
uint64_t rgp__engine_repeat(rgp_engine *e, uint32_t claim, const rgp_image_action *action);

/* A timed action does not end before, or goes on or off. */
static inline void note_end(const rgp_engine *e, uint64_t end_us)
{
    rgp__engine_head *const head = part_head(e);
    if (end_us < head->next_end_us) {
        head->next_end_us = end_us;
    }
}

/* The amount that an action asks for; of a toggle and a step, from what the latch says now. */
float rgp__engine_amount(const rgp_engine *e, const rgp_image_action *action);

#endif
