/* Claims made, credited and ended. */
#include "claims.h"

#include "phase.h"

/* Writes over the claim: of two sets in one tick the later stands, and its rule is the one that made it. What the claim
 * makes of it is decided later in the same tick, by arbitration. */
void rgp__engine_claim(rgp_engine *e, uint32_t by, uint16_t claim, float value, uint64_t until_us)
{
    part_claim(e)[claim] = (rgp_claim){.since_us = part_head(e)->now_us,
                                       .until_us = until_us,
                                       .value = value,
                                       .by = (uint16_t)by,
                                       .active = RGP_CLAIM_DRIVES};
    make_due(e, RGP__DUE_OUTPUTS);
}

/* The place of the action in its period follows from the time since it began, not from counting, so that a late tick
 * shifts nothing. The next change is never behind the end of the claim. */
uint64_t rgp__engine_repeat(rgp_engine *e, uint32_t claim, const rgp_image_action *action)
{
    rgp_claim *const is = &part_claim(e)[claim];
    const uint64_t now_us = part_head(e)->now_us;
    const uint64_t once = rgp_microseconds(read_ref(e, action->duration).value);
    const uint64_t period = rgp_microseconds(read_ref(e, action->period).value);
    const uint64_t since = now_us - is->since_us, into = period > 0 ? since % period : 0;
    const uint8_t active = into < once ? RGP_CLAIM_DRIVES : RGP_CLAIM_PAUSES;
    if (active != is->active) {
        is->active = active;
        make_due(e, RGP__DUE_OUTPUTS);
    }
    const uint64_t next = now_us - into + (active == RGP_CLAIM_DRIVES ? once : period);
    return next < is->until_us ? next : is->until_us;
}

/* A step and a toggle go on from what the claim holds now, not from what the actuator does: whoever else may own it
 * meanwhile. A step stays within the travel. */
float rgp__engine_amount(const rgp_engine *e, const rgp_image_action *action)
{
    const float value = read_ref(e, action->value).value;
    if (action->kind != RGP_ACTION_TOGGLE && action->kind != RGP_ACTION_STEP) {
        return value;
    }
    const rgp_claim *const claim = &part_claim(e)[action->claim];
    const rgp_image_actuator *a = &image_ACTUATORS(e)[image_CLAIMS(e)[action->claim].actuator];
    const float latched = claim->active ? claim->value : a->rest;
    return action->kind == RGP_ACTION_STEP ? rgp_limit(latched + value, a->low, a->high)
           : latched != 0.0f               ? 0.0f
                                           : 1.0f;
}
