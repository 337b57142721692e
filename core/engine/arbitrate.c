/* Each actuator's owner, and what it asks. Both stand until a claim changes, unless something is shaped: that goes on
 * from tick to tick. */
#include "phase.h"

#include "rigpulse/drive.h"

/* Claims stand in falling rank in the image, so the first active one owns. A stop and the hand alone are made by
 * shortening the list, not by other ways through it. */
static void choose(const rgp_engine *e, const rgp__engine_head *head, const rgp_image_actuator *a,
                   rgp__actuator_state *to)
{
    const rgp_claim *const claim = part_claim(e) + a->first_claim;
    const uint32_t claims = head->stopped ? 0 : head->hand_only ? 1 : a->claims; /* the first is the hand's */
    const uint32_t i = rgp_claim_owner(claim, claims);
    if (to->lost) {
        to->owner = RGP_OWNER_FAULT;
        to->wanted = a->rest;
    } else if (i == claims) {
        to->owner = head->stopped ? RGP_OWNER_STOP : RGP_OWNER_REST;
        to->wanted = a->rest;
    } else {
        to->owner = (uint16_t)(a->first_claim + i);
        to->wanted = claim[i].active == RGP_CLAIM_PAUSES ? a->rest : rgp_limit(claim[i].value, a->low, a->high);
    }
}

/* As long as nothing is shaped, what is wanted is the output, within the travel already; else conditioning and guards,
 * which follow, write it. */
void rgp__phase_arbitrate(rgp_engine *e)
{
    rgp__engine_head *const head = part_head(e);
    const rgp_image_actuator *const a = image_ACTUATORS(e);
    rgp__actuator_state *const is = part_actuator(e);
    float *const value = part_value(e) + rgp_image_actuator_slot(e->image, 0);
    const bool shaped = head->always & RGP__DUE_CONDITIONING;
    head->due &= ~(uint32_t)RGP__DUE_OUTPUTS;
    for (uint32_t i = 0; i < COUNT(e, ACTUATORS); i++) {
        choose(e, head, &a[i], &is[i]);
        if (!shaped) {
            value[i] = is[i].wanted;
        }
    }
}
