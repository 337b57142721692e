/* Rules: which fire in this tick. */
#include "act.h"
#include "claims.h"
#include "phase.h"

/* A computed amount that cannot be trusted fires nothing. */
static bool amounts_usable(const rp_engine *e, const rp_image_rule *rule)
{
    const rp_image_action *action = image_ACTIONS(e) + rule->first_action;
    for (uint32_t i = 0; i < rule->actions; i++) {
        if (takes_amount(&action[i]) && !rp_usable(read_ref(e, action[i].value).quality)) {
            return false;
        }
        if (action[i].kind == RP_ACTION_TIMED && (!rp_usable(read_ref(e, action[i].duration).quality) ||
                                                  !rp_usable(read_ref(e, action[i].period).quality))) {
            return false;
        }
    }
    return rp_usable(read_ref(e, rule->holdoff).quality);
}

/* The time that a timed action takes with all its times. */
static uint64_t width_of(const rp_engine *e, const rp_image_action *action)
{
    const uint64_t once = rp_microseconds(read_ref(e, action->duration).value);
    return once + (action->times - 1u) * rp_microseconds(read_ref(e, action->period).value);
}

/* An action that drives; gives how long it does, 0 for one that is not timed. */
static uint64_t drive_by(rp_engine *e, uint32_t rule, const rp_image_action *action)
{
    const bool timed = action->kind == RP_ACTION_TIMED;
    const uint64_t width = timed ? width_of(e, action) : 0;
    const uint64_t until = timed ? part_head(e)->now_us + width : UINT64_MAX;
    rp_engine_claim(e, rule, action->claim, rp_engine_amount(e, action), until);
    heed_end(e, timed && action->times > 1 ? rp_engine_repeat(e, action->claim, action) : until);
    return width;
}

static void fire(rp_engine *e, uint32_t index, const rp_image_rule *rule)
{
    const rp_image_action *action = image_ACTIONS(e) + rule->first_action;
    uint64_t longest = 0;
    tell(e, RP_EVENT_FIRED, 0, index, 0.0f);
    for (uint32_t i = 0; i < rule->actions; i++) {
        if (rp_action_drives(action[i].kind)) {
            const uint64_t width = drive_by(e, index, &action[i]);
            longest = width > longest ? width : longest;
        } else {
            rp_engine_act_aside(e, rule->first_action + i);
        }
    }
    rp_pulse_fire(&part_rule(e)[index].pulse, part_head(e)->now_us, longest,
                  rp_microseconds(read_ref(e, rule->holdoff).value));
}

static void consider(rp_engine *e, uint32_t index, const rp_image_rule *rule)
{
    const rp_rule_state *is = &part_rule(e)[index];
    if (is->blocked) {
        return;
    }
    const rp_pulse_phase phase = rp_pulse_at(&is->pulse, part_head(e)->now_us);
    if (phase == RP_PULSE_READY) {
        if (amounts_usable(e, rule)) {
            fire(e, index, rule);
        }
    } else if (!rule->repeats) {
        tell(e, RP_EVENT_DROPPED, (uint8_t)phase, index, 0.0f);
    }
}

void rp_phase_rules(rp_engine *e)
{
    const rp_engine_head *const head = part_head(e);
    const rp_image_rule *rule = image_RULES(e);
    const float *const value = e->value;
    const rp_rule_state *is = part_rule(e);
    const uint32_t rules = head->stopped ? 0 : COUNT(e, RULES);
    const uint64_t now_us = head->now_us;
    for (uint32_t i = 0; i < rules; i++, rule++, is++) {
        const uint32_t slot = rule->trigger;
        if (slot < RP_REF_NONE) {
            if (value[slot] == 0.0f || (rule->repeats && now_us < is->pulse.ready_at)) {
                continue;
            }
            if (rp_usable(e->quality[slot])) {
                consider(e, i, rule);
            }
        } else if (slot == RP_REF_NONE ? head->ticks == 0 : read_ref(e, rule->trigger).value != 0.0f) {
            consider(e, i, rule);
        }
    }
}
