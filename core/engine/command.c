/* Commands to an engine between two ticks, and what it answers when it is asked. */
#include "begin.h"
#include "params.h"
#include "program.h"
#include "stops.h"
#include "watch.h"

void rp_engine_clear(rp_engine *e)
{
    rp_engine_forget_faults(e);
    for (uint32_t i = 0; i < COUNT(e, LOOPS); i++) {
        link_of(e, &image_LOOPS(e)[i])->news |= RP_NEWS_ANEW;
    }
    tell(e, RP_EVENT_CLEARED, 0, 0, 0.0f);
}

void rp_engine_listen(rp_engine *e, rp_event_listener *listener, void *self)
{
    e->listener = listener;
    e->listener_self = self;
}

rp_status rp_engine_relearn(rp_engine *e, uint16_t slot)
{
    return slot < e->image->slots && e->program->relearn(e, slot) ? RP_OK : RP_E_INDEX;
}

/* The loader has seen to it that the first claim on an actuator is the hand's. */
static rp_claim *hand_of(const rp_engine *e, uint16_t actuator)
{
    return &part_claim(e)[image_ACTUATORS(e)[actuator].first_claim];
}

rp_status rp_engine_hand(rp_engine *e, uint16_t actuator, float value)
{
    if (actuator >= COUNT(e, ACTUATORS)) {
        return RP_E_INDEX;
    }
    const rp_image_actuator *a = &image_ACTUATORS(e)[actuator];
    if (!(value >= a->low && value <= a->high)) {
        return RP_E_RANGE;
    }
    if (a->kind != RP_ACTUATOR_NUMBER && value != (float)(int32_t)value) { /* between two names */
        return RP_E_RANGE;
    }
    *hand_of(e, actuator) = (rp_claim){.value = value, .until_us = UINT64_MAX, .active = RP_CLAIM_DRIVES};
    make_due(e, RP_DUE_OUTPUTS);
    tell(e, RP_EVENT_HAND, 0, actuator, value);
    return RP_OK;
}

rp_status rp_engine_release(rp_engine *e, uint16_t actuator)
{
    if (actuator >= COUNT(e, ACTUATORS)) {
        return RP_E_INDEX;
    }
    hand_of(e, actuator)->active = RP_CLAIM_NONE;
    make_due(e, RP_DUE_OUTPUTS);
    tell(e, RP_EVENT_RELEASED, 0, actuator, 0.0f);
    return RP_OK;
}

void rp_engine_stop(rp_engine *e)
{
    rp_engine_stop_by(e, RP_REF_NONE);
}

void rp_engine_resume(rp_engine *e)
{
    rp_engine_resume_by(e, RP_REF_NONE);
}

rp_status rp_engine_bound(rp_engine *e, float percent)
{
    if (!(percent >= 0.0f && percent <= 100.0f)) {
        return RP_E_RANGE;
    }
    part_head(e)->bound = percent;
    rp_engine_arrange(e);
    make_due(e, RP_DUE_OUTPUTS);
    return RP_OK;
}

void rp_engine_hand_only(rp_engine *e, bool only)
{
    part_head(e)->hand_only = only;
    rp_engine_arrange(e);
    make_due(e, RP_DUE_OUTPUTS);
}

uint64_t rp_engine_now(const rp_engine *e)
{
    return part_head(e)->now_us;
}

uint16_t rp_engine_owner(const rp_engine *e, uint16_t actuator)
{
    return actuator < COUNT(e, ACTUATORS) ? part_actuator(e)[actuator].owner : RP_OWNER_REST;
}

bool rp_engine_is_stopped(const rp_engine *e)
{
    return part_head(e)->stopped;
}

rp_rule_timing rp_engine_rule(const rp_engine *e, uint16_t rule)
{
    if (rule >= COUNT(e, RULES)) {
        return (rp_rule_timing){.phase = RP_PULSE_READY};
    }
    const rp_rule_state *is = &part_rule(e)[rule];
    const uint64_t now_us = part_head(e)->now_us;
    rp_rule_timing timing = {rp_pulse_at(&is->pulse, now_us), 0, is->blocked};
    if (timing.phase != RP_PULSE_READY) {
        timing.left_us = (timing.phase == RP_PULSE_ACTING ? is->pulse.acts_until : is->pulse.ready_at) - now_us;
    }
    return timing;
}

const void *rp_engine_state(const rp_engine *e, uint32_t offset)
{
    return part_states(e) + offset;
}

const char *rp_event_word(uint8_t kind)
{
    static const char *const word[RP_EVENTS] = {
#define RP_EVENT_WORD(name, text) text,
        RP_EVENT_LIST(RP_EVENT_WORD)
#undef RP_EVENT_WORD
    };
    return kind < RP_EVENTS ? word[kind] : "?";
}
