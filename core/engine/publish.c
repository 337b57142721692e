/* The end of a tick: the loops learn which of their outputs were written, and edges of sensors are forgotten. */
#include "edge_queue.h"
#include "params.h"
#include "phase.h"

#include "rigpulse/drive.h"

/* A loop that has only been held and drives again has not engaged anew: nothing is told. */
static void raise_phase(const rgp_engine *e, uint32_t loop, const rgp_loop_link *is, uint8_t was)
{
    if (is->phase == RGP_LOOP_OUT) {
        raise_event(e, RGP_EVENT_TRIPPED, is->reason, loop, (float)image_LOOPS(e)[loop].again);
    } else if (is->phase == RGP_LOOP_ENGAGED && was != RGP_LOOP_HELD) {
        raise_event(e, RGP_EVENT_ENGAGED, 0, loop, 0.0f);
    } else if (is->phase == RGP_LOOP_HELD) {
        raise_event(e, RGP_EVENT_HELD, 0, loop, 0.0f);
    }
}

/* Somebody else owns its actuator, or a guard does, or it has a least power: that it gets that is no less than was
 * asked. */
static void note_owner(const rgp_engine *e, const rgp_image_loop *l, bool armed, rgp_loop_link *link)
{
    const rgp_image_actuator *a = &image_ACTUATORS(e)[l->actuator];
    const float asked = part_claim(e)[l->claim].value, written = link->driven;
    const uint32_t owner = a->first_claim + rgp_claim_owner(part_claim(e) + a->first_claim, a->claims);
    const bool raised = a->least > 0.0f && asked != 0.0f && asked < a->least && asked > -a->least &&
                        written == (asked > 0.0f ? a->least : -a->least);
    const bool stopped = part_head(e)->stopped || !armed,
               mine = !stopped && owner == l->claim && !part_actuator(e)[l->actuator].lost;
    link->news |= (uint8_t)((mine ? 0 : RGP_NEWS_TAKEN) | (stopped ? RGP_NEWS_STOPPED : 0));
    link->driven = raised && mine ? asked : written;
}

/* The news of a loop; and what it has come to drive, and whether it did, which its next step has to know. */
static void note_loop(const rgp_engine *e, uint32_t loop, bool shaped)
{
    const rgp_image_loop *l = &image_LOOPS(e)[loop];
    rgp_loop_link *const link = link_of(e, l);
    uint8_t *const told = &part_loop_told(e)[loop];
    if (link->phase != *told) {
        raise_phase(e, loop, link, *told);
        *told = link->phase;
    }
    link->driven = e->value[rgp_image_actuator_slot(e->image, l->actuator)];
    link->news &= (uint8_t) ~(RGP_NEWS_STOPPED | RGP_NEWS_TAKEN);
    const bool armed = is_armed(e, l->condition);
    if (part_actuator(e)[l->actuator].owner != l->claim || shaped || !armed) {
        note_owner(e, l, armed, link);
    }
}

/* Last in the tick: what was really driven is known only behind the guards. */
void rgp__phase_publish(rgp_engine *e)
{
    rgp__engine_head *const head = part_head(e);
    if (head->due & RGP__DUE_LOOPS) {
        head->due &= ~(uint32_t)RGP__DUE_LOOPS;
        for (uint32_t i = 0; i < COUNT(e, LOOPS); i++) {
            note_loop(e, i, head->always & RGP__DUE_CONDITIONING);
        }
    }
    if (head->always & RGP__DUE_EDGES) {
        rgp__engine_forget_edges(e);
    }
}
