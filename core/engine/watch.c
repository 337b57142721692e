/* Sensors that are held against more than their range, by the samples and by the time; and what rests while one has a
 * fault. */
#include "watch.h"

#include "begin.h"
#include "phase.h"
#include "sense.h"
#include "sequence.h"

void rgp__begin_watches(rgp_engine *e)
{
    const uint32_t supervised = rgp__image_supervised(e->image);
    for (uint32_t k = 0; k < supervised; k++) {
        rgp_supervision_reset(&part_watch(e)[k].supervision);
    }
}

/* The rule's claims are let go; a plain set that another rule has made since stays. */
static void let_go(rgp_engine *e, uint32_t rule)
{
    const rgp_image_rule *r = &image_RULES(e)[rule];
    for (uint32_t i = r->first_action; i < (uint32_t)r->first_action + r->actions; i++) {
        const uint16_t at = image_ACTIONS(e)[i].claim;
        if (!rgp_action_drives(image_ACTIONS(e)[i].kind)) {
            continue;
        }
        rgp_claim *const claim = &part_claim(e)[at];
        if (claim->by == rule) {
            claim->active = RGP_CLAIM_NONE;
            part_actuator(e)[image_CLAIMS(e)[at].actuator].relief |= RGP__RELIEF_FAULT;
        }
    }
}

/* A rule, sequence or loop that needs a sensor with a fault does not act before that has ended. A continuous drive lets
 * go by itself. */
static void block(rgp_engine *e, const rgp_image_need *need)
{
    make_due(e, RGP__DUE_OUTPUTS);
    if (need->by == RGP_NEEDED_BY_RULE) {
        part_rule(e)[need->index].blocked = 1;
        let_go(e, need->index);
    } else if (need->by == RGP_NEEDED_BY_DRIVE) {
        part_held_drive(e)[need->index] = 1;
    } else {
        part_sequence(e)[need->index].blocked = 1;
        rgp__engine_fail(e, need->index, RGP_FAIL_SENSOR);
    }
}

/* The one place that knows where the mark of a need lies. */
static uint8_t *blocked_of(const rgp_engine *e, const rgp_image_need *need)
{
    return need->by == RGP_NEEDED_BY_RULE    ? &part_rule(e)[need->index].blocked
           : need->by == RGP_NEEDED_BY_DRIVE ? &part_held_drive(e)[need->index]
                                             : &part_sequence(e)[need->index].blocked;
}

/* Whoever needs the sensor is blocked at once, in the order of the image. */
static void raise_fault(rgp_engine *e, uint32_t sensor, rgp_reading reading)
{
    const rgp_image_need *need = image_NEEDS(e), *const end = need + COUNT(e, NEEDS);
    raise_event(e, RGP_EVENT_FAULT, reading.quality, sensor, reading.value);
    for (; need < end; need++) {
        if (need->sensor == sensor) {
            block(e, need);
        }
    }
}

/* A sensor without supervision has none. */
static bool has_fault(const rgp_engine *e, uint32_t sensor)
{
    const uint32_t supervised = image_SENSORS(e)[sensor].supervised;
    return supervised && part_watch(e)[supervised - 1].fault;
}

/* Whoever needs the sensor, and no other one that has a fault, may act again. */
static void end_fault(const rgp_engine *e, uint32_t sensor, rgp_reading reading)
{
    const rgp_image_need *const need = image_NEEDS(e);
    raise_event(e, RGP_EVENT_RECOVERED, 0, sensor, reading.value);
    for (uint32_t i = 0; i < COUNT(e, NEEDS); i++) {
        if (need[i].sensor == sensor) {
            *blocked_of(e, &need[i]) = 0;
        }
    }
    for (uint32_t i = 0; i < COUNT(e, NEEDS); i++) {
        if (has_fault(e, need[i].sensor)) {
            *blocked_of(e, &need[i]) = 1;
        }
    }
}

/* A fault that is still there comes again, after the time that it takes. */
void rgp__engine_forget_faults(rgp_engine *e)
{
    const uint32_t supervised = rgp__image_supervised(e->image);
    for (uint32_t k = 0; k < supervised; k++) {
        part_watch(e)[k].fault = 0;
        part_watch(e)[k].fault_us = 0;
    }
    for (uint32_t i = 0; i < COUNT(e, NEEDS); i++) {
        *blocked_of(e, &image_NEEDS(e)[i]) = 0;
    }
}

/* A fault comes when readings have been bad for long enough, and ends when they have been good for long enough. */
static void time_fault(rgp_engine *e, uint32_t sensor, rgp__watch *watch)
{
    const rgp_image_sensor *s = &image_SENSORS(e)[sensor];
    const rgp_reading reading = rgp_engine_value(e, rgp_image_sensor_slot(e->image, sensor));
    const bool goes_on = rgp_usable(reading.quality) == (watch->fault != 0);
    const float after = watch->fault ? s->again_after : s->fault_after;
    watch->fault_us = goes_on ? watch->fault_us + part_head(e)->passed_us : 0;
    if (!goes_on || after <= 0.0f || watch->fault_us < rgp_microseconds(after)) {
        return;
    }
    watch->fault_us = 0;
    watch->fault ^= 1;
    if (watch->fault) {
        raise_fault(e, sensor, reading);
    } else {
        end_fault(e, sensor, reading);
    }
}

/* Before the program, so that it computes with the qualities of this tick. */
void rgp__phase_watch(rgp_engine *e)
{
    const rgp__engine_head *const head = part_head(e);
    for (uint32_t i = 0; i < COUNT(e, SENSORS); i++) {
        const rgp_image_sensor *s = &image_SENSORS(e)[i];
        if (s->supervised) {
            rgp__watch *const watch = &part_watch(e)[s->supervised - 1];
            accept_reading(e, i, rgp_supervision_step(&s->supervision, &watch->supervision, head->port_us, head->dt));
            time_fault(e, i, watch);
        }
    }
}
