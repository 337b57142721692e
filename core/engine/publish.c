/* The end of a tick: the loops learn which of their outputs were written, and edges of sensors are forgotten. */
#include "gather.h"
#include "params.h"
#include "phase.h"

#include "rigpulse/drive.h"

static void tell_phase(const rp_engine *e, uint32_t loop, const rp_loop_link *is, uint8_t was)
{
    if (is->phase == RP_LOOP_OUT) {
        tell(e, RP_EVENT_CUT_OUT, is->reason, loop, (float)image_LOOPS(e)[loop].again);
    } else if (is->phase == RP_LOOP_ENGAGED && was != RP_LOOP_HELD) {
        tell(e, RP_EVENT_ENGAGED, 0, loop, 0.0f);
    } else if (is->phase == RP_LOOP_HELD) {
        tell(e, RP_EVENT_HELD, 0, loop, 0.0f);
    }
}

/* Somebody else owns its actuator, or a guard does, or it has a least power: that it gets that is no less than was
 * asked. */
static void note_owner(const rp_engine *e, const rp_image_loop *l, bool armed, rp_loop_link *link)
{
    const rp_image_actuator *a = &image_ACTUATORS(e)[l->actuator];
    const float asked = part_claim(e)[l->claim].value, written = link->taken;
    const uint32_t owner = a->first_claim + rp_claim_owner(part_claim(e) + a->first_claim, a->claims);
    const bool raised = a->least > 0.0f && asked != 0.0f && asked < a->least && asked > -a->least &&
                        written == (asked > 0.0f ? a->least : -a->least);
    const bool stopped = part_head(e)->stopped || !armed, mine = !stopped && owner == l->claim;
    link->news |= (uint8_t)((mine ? 0 : RP_NEWS_TAKEN) | (stopped ? RP_NEWS_STOPPED : 0));
    link->taken = raised && mine ? asked : written;
}

/* The news of a loop; and what it has come to drive, and whether it did, which its next step has to know. */
static void note_loop(const rp_engine *e, uint32_t loop, bool shaped)
{
    const rp_image_loop *l = &image_LOOPS(e)[loop];
    rp_loop_link *const link = link_of(e, l);
    uint8_t *const told = &part_loop_told(e)[loop];
    if (link->phase != *told) {
        tell_phase(e, loop, link, *told);
        *told = link->phase;
    }
    link->taken = e->value[rp_image_actuator_slot(e->image, l->actuator)];
    link->news &= (uint8_t) ~(RP_NEWS_STOPPED | RP_NEWS_TAKEN);
    const bool armed = is_armed(e, l->only);
    if (part_actuator(e)[l->actuator].owner != l->claim || shaped || !armed) {
        note_owner(e, l, armed, link);
    }
}

void rp_phase_publish(rp_engine *e)
{
    rp_engine_head *const head = part_head(e);
    if (head->due & RP_DUE_LOOPS) {
        head->due &= ~(uint32_t)RP_DUE_LOOPS;
        for (uint32_t i = 0; i < COUNT(e, LOOPS); i++) {
            note_loop(e, i, head->always & RP_DUE_SHAPE);
        }
    }
    if (head->always & RP_DUE_EDGES) {
        rp_engine_forget_edges(e);
    }
}
