/* Commands to an engine between two ticks, and what it answers when it is asked. */
#include "begin.h"
#include "params.h"
#include "program.h"
#include "stops.h"
#include "watch.h"

#include "rigpulse/drive.h"

/* Faults and loops that are out, together: a person who clears wants the rig to go on. */
void rgp_engine_clear(rgp_engine *e)
{
    rgp__engine_forget_faults(e);
    for (uint32_t i = 0; i < COUNT(e, LOOPS); i++) {
        link_of(e, &image_LOOPS(e)[i])->news |= RGP_NEWS_ANEW;
    }
    raise_event(e, RGP_EVENT_CLEARED, 0, 0, 0.0f);
}

void rgp_engine_listen(rgp_engine *e, rgp_event_listener *listener, void *self)
{
    e->listener = listener;
    e->listener_self = self;
}

rgp_status rgp_engine_relearn(rgp_engine *e, uint16_t slot)
{
    return slot < e->image->slots && e->program->relearn(e, slot) ? RGP_OK : RGP_E_INDEX;
}

/* The loader has seen to it that the first claim on an actuator is the hand's. */
static rgp_claim *hand_of(const rgp_engine *e, uint16_t actuator)
{
    return &part_claim(e)[image_ACTUATORS(e)[actuator].first_claim];
}

rgp_status rgp_engine_hand(rgp_engine *e, uint16_t actuator, float value)
{
    if (actuator >= COUNT(e, ACTUATORS)) {
        return RGP_E_INDEX;
    }
    const rgp_image_actuator *a = &image_ACTUATORS(e)[actuator];
    if (!(value >= a->low && value <= a->high)) {
        return RGP_E_RANGE;
    }
    if (a->kind != RGP_ACTUATOR_NUMBER && value != (float)(int32_t)value) { /* between two names */
        return RGP_E_RANGE;
    }
    *hand_of(e, actuator) = (rgp_claim){.value = value, .until_us = UINT64_MAX, .active = RGP_CLAIM_DRIVES};
    make_due(e, RGP__DUE_OUTPUTS);
    raise_event(e, RGP_EVENT_HAND, 0, actuator, value);
    return RGP_OK;
}

rgp_status rgp_engine_release(rgp_engine *e, uint16_t actuator)
{
    if (actuator >= COUNT(e, ACTUATORS)) {
        return RGP_E_INDEX;
    }
    hand_of(e, actuator)->active = RGP_CLAIM_NONE;
    make_due(e, RGP__DUE_OUTPUTS);
    raise_event(e, RGP_EVENT_RELEASED, 0, actuator, 0.0f);
    return RGP_OK;
}

/* By nobody's line: only rgp_engine_resume() ends it, no condition does. */
void rgp_engine_stop(rgp_engine *e)
{
    rgp__engine_stop_by(e, RGP_REF_NONE);
}

void rgp_engine_resume(rgp_engine *e)
{
    rgp__engine_resume_by(e, RGP_REF_NONE);
}

/* A bound makes outputs differ from what is asked, so what has to run in every tick is arranged anew. */
rgp_status rgp_engine_bound(rgp_engine *e, float percent)
{
    if (!(percent >= 0.0f && percent <= 100.0f)) {
        return RGP_E_RANGE;
    }
    part_head(e)->bound = percent;
    rgp__engine_arrange(e);
    make_due(e, RGP__DUE_OUTPUTS);
    return RGP_OK;
}

void rgp_engine_hand_only(rgp_engine *e, bool only)
{
    part_head(e)->hand_only = only;
    rgp__engine_arrange(e);
    make_due(e, RGP__DUE_OUTPUTS);
}

uint64_t rgp_engine_now(const rgp_engine *e)
{
    return part_head(e)->now_us;
}

uint16_t rgp_engine_owner(const rgp_engine *e, uint16_t actuator)
{
    return actuator < COUNT(e, ACTUATORS) ? part_actuator(e)[actuator].owner : RGP_OWNER_REST;
}

float rgp_engine_bound_percent(const rgp_engine *e)
{
    return part_head(e)->bound;
}

const rgp_claim *rgp_engine_claim(const rgp_engine *e, uint16_t claim)
{
    return claim < COUNT(e, CLAIMS) ? &part_claim(e)[claim] : NULL;
}

float rgp_engine_asked(const rgp_engine *e, uint16_t actuator)
{
    if (actuator >= COUNT(e, ACTUATORS)) {
        return 0.0f;
    }
    const rgp_image_actuator *a = &image_ACTUATORS(e)[actuator];
    const rgp_claim *claim = part_claim(e) + a->first_claim;
    const uint32_t i = rgp_claim_owner(claim, part_head(e)->hand_only ? 1 : a->claims);
    const bool drives = i < a->claims && claim[i].active == RGP_CLAIM_DRIVES && !part_head(e)->stopped &&
                        !part_actuator(e)[actuator].lost;
    return drives ? rgp_limit(claim[i].value, a->low, a->high) : a->rest;
}

bool rgp_engine_is_guarding(const rgp_engine *e, uint16_t guard)
{
    return guard < COUNT(e, GUARDS) && part_guarding(e)[guard];
}

bool rgp_engine_is_stopped(const rgp_engine *e)
{
    return part_head(e)->stopped;
}

/* `left_us` is above 0 where the phase is not READY: both ends are later than now. */
rgp_rule_timing rgp_engine_rule(const rgp_engine *e, uint16_t rule)
{
    if (rule >= COUNT(e, RULES)) {
        return (rgp_rule_timing){.phase = RGP_PULSE_READY};
    }
    const rgp__rule_state *is = &part_rule(e)[rule];
    const uint64_t now_us = part_head(e)->now_us;
    rgp_rule_timing timing = {rgp_pulse_at(&is->pulse, now_us), 0, is->blocked};
    if (timing.phase != RGP_PULSE_READY) {
        timing.left_us = (timing.phase == RGP_PULSE_ACTING ? is->pulse.acts_until : is->pulse.ready_at) - now_us;
    }
    return timing;
}

const void *rgp_engine_state(const rgp_engine *e, uint32_t offset)
{
    return part_states(e) + offset;
}
