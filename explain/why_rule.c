/* Why a rule fired in a tick, or why it did not. */
#include "why_parts.h"

static const rgp_image_rule *rule_at(const rgp_why *w, uint32_t rule)
{
    return (const rgp_image_rule *)rgp_image_at(why_image(w), RGP_SECTION_RULES) + rule;
}

static const rgp_event *event_of(const rgp_why *w, uint8_t kind, uint32_t source)
{
    const rgp_event *event = rgp_frame_event(w->layout, w->frame);
    for (uint32_t i = 0; i < w->frame->events; i++) {
        if (event[i].kind == kind && event[i].source == source) {
            return &event[i];
        }
    }
    return NULL;
}

static rgp_reason *trigger_of(const rgp_why *w, const rgp_image_rule *rule)
{
    if (rule->trigger == RGP_REF_NONE) {
        const bool first = w->frame->number == 0;
        return rgp_reason_new(first ? RGP_HOLDS_YES : RGP_HOLDS_NO, "start: %s",
                              first ? "the rig started in this tick" : "the rig has been running");
    }
    return rule->trigger & RGP_REF_CONSTANT
               ? rgp_reason_new(why_read(w, rule->trigger).value != 0.0f ? RGP_HOLDS_YES : RGP_HOLDS_NO, "a number")
               : why_condition(w, rule->trigger);
}

/* ---- what keeps it from firing, though its condition is true ---------------------------------------- */

static void put_time_left(const rgp_why *w, const rgp_rule_timing *timing, uint32_t rule, GString *to)
{
    const uint64_t end_us = w->frame->time_us + timing->left_us, fired_us = w->trace->rule[rule].fired_us;
    g_string_append_printf(
        to, timing->phase == RGP_PULSE_ACTING ? "its action goes on until %.3f s" : "its holdoff goes on until %.3f s",
        (double)end_us / 1e6);
    if (fired_us != UINT64_MAX) {
        g_string_append_printf(to, ", for it fired at %.3f s", (double)fired_us / 1e6);
    }
}

/* "a fault of level keeps it from firing": of those that it needs the bad ones, or all. */
static void put_faults(const rgp_why *w, uint32_t rule, GString *to)
{
    const rgp_image_need *need = rgp_image_at(why_image(w), RGP_SECTION_NEEDS);
    const char *comma = "";
    g_string_append(to, "a fault of a sensor that it needs keeps it from firing, until that is cleared (");
    for (uint32_t i = 0; i < rgp_image_count(why_image(w), RGP_SECTION_NEEDS); i++) {
        if (need[i].by == RGP_NEEDED_BY_RULE && need[i].index == rule) {
            const uint32_t slot = rgp_image_sensor_slot(why_image(w), need[i].sensor);
            g_string_append_printf(to, "%s%s", comma, rgp_image_text(why_image(w), RGP_NAME_SLOT, slot, 0));
            comma = ", ";
        }
    }
    g_string_append_c(to, ')');
}

/* The first amount of its actions that cannot be trusted; RGP_REF_NONE: all can. */
static uint16_t bad_amount(const rgp_why *w, const rgp_image_rule *rule)
{
    const rgp_image_action *action =
        (const rgp_image_action *)rgp_image_at(why_image(w), RGP_SECTION_ACTIONS) + rule->first_action;
    for (uint32_t i = 0; i < rule->actions; i++) {
        const bool timed = action[i].kind == RGP_ACTION_TIMED,
                   amount = rgp_action_drives(action[i].kind) || action[i].kind == RGP_ACTION_PARAM;
        const uint16_t ref[] = {amount ? action[i].value : RGP_REF_CONSTANT,
                                timed ? action[i].duration : RGP_REF_CONSTANT,
                                timed ? action[i].period : RGP_REF_CONSTANT};
        for (size_t k = 0; k < G_N_ELEMENTS(ref); k++) {
            if (!(ref[k] & RGP_REF_CONSTANT) && ref[k] != RGP_REF_NONE && !rgp_usable(why_read(w, ref[k]).quality)) {
                return ref[k];
            }
        }
    }
    return RGP_REF_NONE;
}

static void put_why_not(const rgp_why *w, uint32_t index, const rgp_image_rule *rule, const rgp_reason *trigger,
                        rgp_reason *to)
{
    const rgp_rule_timing timing = rgp_engine_rule(w->engine, (uint16_t)index);
    const uint16_t bad = bad_amount(w, rule);
    if (rgp_engine_is_stopped(w->engine)) {
        g_string_append_printf(to->says, "everything is stopped, since %.3f s", (double)w->trace->stop.time_us / 1e6);
    } else if (timing.blocked) {
        put_faults(w, index, to->says);
    } else if (trigger->holds == RGP_HOLDS_NO) {
        g_string_append(to->says, rule->repeats                 ? "its condition is not true"
                                  : rgp_why_lack(w, index).came ? "its event came, but a condition with it was not true"
                                                                : "its event did not come");
    } else if (trigger->holds == RGP_HOLDS_UNKNOWN) {
        g_string_append(to->says, "what it goes by cannot be known");
    } else if (timing.phase != RGP_PULSE_READY) {
        put_time_left(w, &timing, index, to->says);
    } else if (bad != RGP_REF_NONE) {
        g_autofree char *subject = why_subject(w, bad);
        g_string_append_printf(to->says, "%s, which its action needs, is ", subject);
        why_put_value(w, bad, to->says);
    }
}

rgp_reason *rgp_why_rule(const rgp_why *w, uint32_t index)
{
    const rgp_image_rule *rule = rule_at(w, index);
    const bool fired = event_of(w, RGP_EVENT_FIRED, index) != NULL;
    rgp_reason *trigger = trigger_of(w, rule);
    rgp_reason *r = rgp_reason_new(RGP_HOLDS_FACT, "%s", "");
    why_put_rule(w, index, r->says);
    g_string_append_printf(r->says,
                           fired ? " fired at %.3f s: " : " did not fire at %.3f s: ", (double)w->frame->time_us / 1e6);
    if (fired) {
        rgp_describe_actions(why_image(w), w->layout, w->frame, index, r->says);
    } else {
        put_why_not(w, index, rule, trigger, r);
    }
    rgp_reason_add(r, trigger);
    if (!fired) {
        const rgp_rule_timing timing = rgp_engine_rule(w->engine, (uint16_t)index);
        if (trigger->holds != RGP_HOLDS_YES && timing.phase != RGP_PULSE_READY) {
            rgp_reason *busy = rgp_reason_add(r, rgp_reason_new(RGP_HOLDS_FACT, "and "));
            put_time_left(w, &timing, index, busy->says);
        }
    }
    return r;
}
