/* Actuators that their port cannot drive any more, and that it drives again. */
#include "phase.h"

static rgp_status set_lost(rgp_engine *e, uint16_t actuator, bool lost)
{
    if (actuator >= COUNT(e, ACTUATORS)) {
        return RGP_E_INDEX;
    }
    part_actuator(e)[actuator].lost = lost;
    part_actuator(e)[actuator].due_us = 0;
    make_due(e, RGP__DUE_LOSSES);
    return RGP_OK;
}

rgp_status rgp_engine_lose(rgp_engine *e, uint16_t actuator)
{
    return set_lost(e, actuator, true);
}

rgp_status rgp_engine_regain(rgp_engine *e, uint16_t actuator)
{
    return set_lost(e, actuator, false);
}

bool rgp_engine_is_lost(const rgp_engine *e, uint16_t actuator)
{
    return actuator < COUNT(e, ACTUATORS) && part_actuator(e)[actuator].lost;
}

/* Loops and continuous drives ask anew in every tick; all others have asked for a thing that was not done. */
static void end_claims(const rgp_engine *e, const rgp_image_actuator *a)
{
    for (uint32_t i = a->first_claim; i < (uint32_t)a->first_claim + a->claims; i++) {
        if (image_CLAIMS(e)[i].rank != RGP_RANK_LOOP) {
            part_claim(e)[i].active = RGP_CLAIM_NONE;
        }
    }
}

/* Raised within the tick, so that a replay, which hands the losses in before it, tells them at the same time. */
void rgp__phase_losses(rgp_engine *e)
{
    rgp__actuator_state *const is = part_actuator(e);
    part_head(e)->due &= ~(uint32_t)RGP__DUE_LOSSES;
    for (uint32_t i = 0; i < COUNT(e, ACTUATORS); i++) {
        if (is[i].lost != is[i].told_lost) {
            is[i].told_lost = is[i].lost;
            raise_event(e, is[i].lost ? RGP_EVENT_LOST : RGP_EVENT_REGAINED, 0, i, 0.0f);
            make_due(e, RGP__DUE_OUTPUTS);
        }
        if (is[i].lost) {
            end_claims(e, &image_ACTUATORS(e)[i]);
        }
    }
}
