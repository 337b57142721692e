/* Commands to an engine between two ticks. */
#include "rigpulse/engine.h"

#include "learner.h"
#include "ops.h"
#include "sequence.h"
#include "shape.h"
#include "tell.h"

#include <string.h>

/* Resets the states of the operations that write `slot`; RP_REF_NONE: of all. True when there was one. */
static bool reset_states(rp_engine *e, uint16_t slot)
{
    const rp_image_run *run = rp_image_at(e->image, RP_SECTION_RUNS);
    const uint16_t *operand = rp_image_at(e->image, RP_SECTION_OPERANDS);
    bool any = false;
    for (uint32_t i = 0; i < rp_image_count(e->image, RP_SECTION_RUNS); i++) {
        const rp_op *op = &rp_ops[run[i].op];
        for (uint32_t n = 0; n < run[i].count; n++, operand += rp_op_operands(run[i].op)) {
            const bool meant = slot == RP_REF_NONE || operand[op->inputs] == slot;
            any |= meant;
            if (meant && op->reset) {
                void *const state = e->state + run[i].state + n * run[i].state_stride;
                const uint32_t *told = rp_learner_told(run[i].op, state);
                e->learners = (uint16_t)(e->learners + (told && (slot == RP_REF_NONE || *told)));
                op->reset(state);
            }
        }
    }
    return any;
}

static void forget_actions(rp_engine *e)
{
    memset(e->claim_active, 0, e->claims);
    memset(e->claim_by, 0, e->claims * sizeof *e->claim_by);
    e->moved = 1;
    e->next_end_us = UINT64_MAX;
    for (uint32_t i = 0; i < e->rules; i++) {
        rp_pulse_reset(&e->pulse[i]);
    }
    memset(e->sequence, 0, e->sequences * sizeof *e->sequence);
    stir(e);
}

static float patched(const rp_image_patch *patch, float param)
{
    return param * patch->scale + patch->offset;
}

static void apply(rp_engine *e, uint16_t param, float value)
{
    const rp_image_patch *patch = rp_image_at(e->image, RP_SECTION_PATCHES);
    for (uint32_t i = 0; i < rp_image_count(e->image, RP_SECTION_PATCHES); i++) {
        if (patch[i].param == param) {
            const float field = patched(&patch[i], value);
            memcpy(e->live + patch[i].live_offset, &field, sizeof field);
        }
    }
    for (uint32_t i = 0; i < e->loops; i++) {
        e->link[i].news |= RP_NEWS_RETUNED;
    }
    e->value[param] = value;
}

static bool configs_sound(const rp_engine *e, uint16_t param)
{
    const rp_image_patch *patch = rp_image_at(e->image, RP_SECTION_PATCHES);
    for (uint32_t i = 0; i < rp_image_count(e->image, RP_SECTION_PATCHES); i++) {
        uint32_t op, config;
        if (patch[i].param == param && rp_op_locate_live(e->image, patch[i].live_offset, &op, &config) &&
            rp_ops[op].check(e->live + config) != RP_OK) {
            return false;
        }
    }
    return true;
}

static void forget_faults(rp_engine *e)
{
    memset(e->fault, 0, e->vetted);
    memset(e->blocked, 0, e->rules + rp_image_count(e->image, RP_SECTION_DRIVES) + e->sequences);
    for (uint32_t k = 0; k < e->vetted; k++) {
        e->fault_us[k] = 0;
    }
}

void rp_engine_clear(rp_engine *e)
{
    forget_faults(e);
    for (uint32_t i = 0; i < e->loops; i++) {
        e->link[i].news |= RP_NEWS_ANEW;
    }
    tell(e, RP_EVENT_CLEARED, 0, 0, 0.0f);
}

void rp_engine_reset(rp_engine *e)
{
    const rp_image_header *image = e->image;
    const rp_image_param *param = rp_image_at(image, RP_SECTION_PARAMS);
    rp_engine_unbound(e);
    e->hand_only = 0;
    memset(e->value, 0, image->slots * sizeof *e->value);
    memset(e->quality, RP_MISSING, image->slots);
    memset(e->plain, 0, e->sensors);
    memset(e->raw, 0, e->sensors * sizeof *e->raw);
    memcpy(e->live, rp_image_at(image, RP_SECTION_LIVE_CONFIGS), 4 * rp_image_count(image, RP_SECTION_LIVE_CONFIGS));
    for (uint32_t i = 0; i < rp_image_count(image, RP_SECTION_PARAMS); i++) {
        e->quality[i] = RP_GOOD;
        apply(e, (uint16_t)i, param[i].initial);
    }
    for (uint32_t i = 0; i < e->actuators; i++) {
        e->value[e->actuator_slot + i] = e->actuator[i].rest;
        e->quality[e->actuator_slot + i] = RP_GOOD;
        e->owner[i] = RP_OWNER_REST;
        e->wanted[i] = e->shaped[i] = e->actuator[i].rest;
        e->driven_us[i] = 0;
        e->credit[i] = rp_engine_credit(&e->actuator[i]);
        e->relief[i] = 0;
    }
    memset(e->param_asked, 0, rp_image_count(image, RP_SECTION_PARAMS));
    memset(e->state_next, 0, e->states * sizeof *e->state_next);
    for (uint32_t i = 0; i < e->states; i++) {
        e->quality[rp_image_state_slot(image, i)] = RP_GOOD;
    }
    const rp_image_claim *claim = rp_image_at(image, RP_SECTION_CLAIMS);
    const rp_image_loop *loop = rp_image_at(image, RP_SECTION_LOOPS);
    for (uint32_t i = 0; i < e->loops; i++) {
        const uint8_t waits = loop[i].only != RP_REF_NONE ? RP_NEWS_STOPPED : 0; /* until its condition is known */
        e->link[i] = (rp_loop_link){.taken = e->actuator[claim[loop[i].claim].actuator].rest,
                                    .news = (uint8_t)(RP_NEWS_TAKEN | waits)};
    }
    memset(e->stall, 0, rp_image_count(image, RP_SECTION_STALLS) * sizeof *e->stall);
    memset(e->edges, 0, e->timed * sizeof *e->edges);
    memset(e->guarding, 0, rp_image_count(image, RP_SECTION_GUARDS));
    e->asked = 0;
    e->early = e->astir = 1;
    e->learners = 0;
    reset_states(e, RP_REF_NONE);
    forget_actions(e);
    forget_faults(e);
    for (uint32_t k = 0; k < e->vetted; k++) {
        rp_vet_reset(&e->vet[k]);
    }
    e->now_us = e->port_us = 0;
    e->ticks = 0;
    e->stopped = 0;
    e->late = 1;
}

void rp_engine_listen(rp_engine *e, rp_event_listener *listener, void *self)
{
    e->listener = listener;
    e->listener_self = self;
}

rp_status rp_engine_set(rp_engine *e, uint16_t param, float value)
{
    if (param >= rp_image_count(e->image, RP_SECTION_PARAMS)) {
        return RP_E_INDEX;
    }
    const rp_image_param *p = (const rp_image_param *)rp_image_at(e->image, RP_SECTION_PARAMS) + param;
    if (!(value >= p->low && value <= p->high)) {
        return RP_E_RANGE;
    }
    const float before = e->value[param];
    apply(e, param, value);
    if (!configs_sound(e, param)) {
        apply(e, param, before);
        return RP_E_CONFIG;
    }
    tell(e, RP_EVENT_PARAM, 0, param, value);
    return RP_OK;
}

rp_status rp_engine_relearn(rp_engine *e, uint16_t slot)
{
    return slot < e->image->slots && reset_states(e, slot) ? RP_OK : RP_E_INDEX;
}

static const rp_image_actuator *actuator_of(const rp_engine *e, uint16_t actuator)
{
    return actuator < e->actuators ? &e->actuator[actuator] : NULL;
}

/* The loader has seen to it that the first claim on an actuator is the hand's. */
rp_status rp_engine_hand(rp_engine *e, uint16_t actuator, float value)
{
    const rp_image_actuator *a = actuator_of(e, actuator);
    if (!a) {
        return RP_E_INDEX;
    }
    if (!(value >= a->low && value <= a->high)) {
        return RP_E_RANGE;
    }
    if (a->kind != RP_ACTUATOR_NUMBER && value != (float)(int32_t)value) { /* between two names */
        return RP_E_RANGE;
    }
    e->claim_value[a->first_claim] = value;
    e->claim_until[a->first_claim] = UINT64_MAX;
    e->claim_active[a->first_claim] = 1;
    e->moved = 1;
    tell(e, RP_EVENT_HAND, 0, actuator, value);
    return RP_OK;
}

rp_status rp_engine_release(rp_engine *e, uint16_t actuator)
{
    const rp_image_actuator *a = actuator_of(e, actuator);
    if (!a) {
        return RP_E_INDEX;
    }
    e->claim_active[a->first_claim] = 0;
    e->moved = 1;
    tell(e, RP_EVENT_RELEASED, 0, actuator, 0.0f);
    return RP_OK;
}

void rp_engine_stop_by(rp_engine *e, uint16_t stop)
{
    forget_actions(e);
    e->stopped = 1;
    e->stopped_by = stop;
    tell(e, RP_EVENT_STOPPED, 0, stop, 0.0f);
}

void rp_engine_resume_by(rp_engine *e, uint16_t stop)
{
    e->stopped = 0;
    e->moved = 1;
    tell(e, RP_EVENT_RESUMED, 0, stop, 0.0f);
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
    e->bound = percent;
    if (percent < 100.0f && !e->shapes) { /* what is asked and what is driven part from here on */
        memcpy(e->apart, e->wanted, e->actuators * sizeof *e->wanted);
        e->wanted = e->apart;
        e->shapes = 1;
    }
    e->moved = 1;
    return RP_OK;
}

void rp_engine_hand_only(rp_engine *e, bool only)
{
    e->hand_only = only;
    e->moved = 1;
}

float rp_engine_written(const rp_image_actuator *a, float value)
{
    return a->inverted ? a->low + a->high - value : value;
}

float rp_engine_output(const rp_engine *e, uint16_t actuator)
{
    const rp_image_actuator *a = actuator_of(e, actuator);
    return a ? rp_engine_written(a, e->value[e->actuator_slot + actuator]) : 0.0f;
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
