/* Each actuator's owner, and what it asks. Both stand until a claim changes, unless something is shaped: that goes on
 * from tick to tick. */
#include "phase.h"

#include "rigpulse/drive.h"

static void choose(const rp_engine *e, const rp_engine_head *head, const rp_image_actuator *a, rp_actuator_state *to)
{
    const rp_claim *const claim = part_claim(e) + a->first_claim;
    const uint32_t claims = head->stopped ? 0 : head->hand_only ? 1 : a->claims; /* the first is the hand's */
    const uint32_t i = rp_claim_owner(claim, claims);
    if (i == claims) {
        to->owner = head->stopped ? RP_OWNER_STOP : RP_OWNER_REST;
        to->wanted = a->rest;
    } else {
        to->owner = (uint16_t)(a->first_claim + i);
        to->wanted = claim[i].active == RP_CLAIM_PAUSES ? a->rest : rp_limit(claim[i].value, a->low, a->high);
    }
}

void rp_phase_arbitrate(rp_engine *e)
{
    rp_engine_head *const head = part_head(e);
    const rp_image_actuator *const a = image_ACTUATORS(e);
    rp_actuator_state *const is = part_actuator(e);
    float *const value = part_value(e) + rp_image_actuator_slot(e->image, 0);
    const bool shaped = head->always & RP_DUE_SHAPE;
    head->due &= ~(uint32_t)RP_DUE_OUTPUTS;
    for (uint32_t i = 0; i < COUNT(e, ACTUATORS); i++) {
        choose(e, head, &a[i], &is[i]);
        if (!shaped) {
            value[i] = is[i].wanted;
        }
    }
}
