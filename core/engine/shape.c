/* The owners' wishes are brought within the mechanism's means: bound, least power, slew. */
#include "phase.h"

#include "rigpulse/drive.h"

/* No further from rest than the bound allows. */
static float bounded(const rp_engine_head *head, const rp_image_actuator *a, float value)
{
    if (head->bound >= 100.0f || a->kind != RP_ACTUATOR_NUMBER) {
        return value;
    }
    const float share = head->bound / 100.0f;
    return rp_limit(value, a->rest - share * (a->rest - a->low), a->rest + share * (a->high - a->rest));
}

/* With enough power to move, and no faster than it may change. A stop, and a fault where nobody else drives, do not
 * wait for that. */
static float slewed(const rp_engine_head *head, const rp_image_actuator *a, const rp_actuator_state *is)
{
    const float value = bounded(head, a, rp_least(is->wanted, a->least));
    if (head->stopped) {
        return a->rest;
    }
    const bool at_once = is->relief & RP_RELIEF_FAULT && is->owner == RP_OWNER_REST;
    return a->slew > 0.0f && !at_once ? rp_slew(value, is->shaped, a->slew * head->dt) : value;
}

void rp_phase_shape(rp_engine *e)
{
    const rp_engine_head *const head = part_head(e);
    const rp_image_actuator *const a = image_ACTUATORS(e);
    rp_actuator_state *const is = part_actuator(e);
    for (uint32_t i = 0; i < COUNT(e, ACTUATORS); i++) {
        is[i].shaped = slewed(head, &a[i], &is[i]);
        is[i].relief &= (uint8_t)~RP_RELIEF_FAULT;
    }
}
