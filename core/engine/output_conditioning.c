/* The owners' wishes are brought within the mechanism's means: bound, least power, slew. */
#include "phase.h"

#include "rigpulse/drive.h"

/* No further from rest than the bound allows. */
static float bounded(const rgp__engine_head *head, const rgp_image_actuator *a, float value)
{
    if (head->bound >= 100.0f || a->kind != RGP_ACTUATOR_NUMBER) {
        return value;
    }
    const float share = head->bound / 100.0f;
    return rgp_limit(value, a->rest - share * (a->rest - a->low), a->rest + share * (a->high - a->rest));
}

/* With enough power to move, and no faster than it may change. A stop, a fault where nobody else drives, and an
 * actuator that cannot be driven do not wait for that. */
static float slewed(const rgp__engine_head *head, const rgp_image_actuator *a, const rgp__actuator_state *is)
{
    const float value = bounded(head, a, rgp_least(is->wanted, a->least));
    if (head->stopped || is->lost) {
        return a->rest;
    }
    const bool at_once = is->relief & RGP__RELIEF_FAULT && is->owner == RGP_OWNER_REST;
    return a->slew > 0.0f && !at_once ? rgp_slew(value, is->shaped, a->slew * head->dt) : value;
}

/* `shaped` is what came out in the last tick, and what the guards let through of it: the slew goes on from there. */
void rgp__phase_output_conditioning(rgp_engine *e)
{
    const rgp__engine_head *const head = part_head(e);
    const rgp_image_actuator *const a = image_ACTUATORS(e);
    rgp__actuator_state *const is = part_actuator(e);
    for (uint32_t i = 0; i < COUNT(e, ACTUATORS); i++) {
        is[i].shaped = slewed(head, &a[i], &is[i]);
        is[i].relief &= (uint8_t)~RGP__RELIEF_FAULT;
    }
}
