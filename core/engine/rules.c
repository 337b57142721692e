/* Rules: which fire in this tick. */
#include "act.h"
#include "claims.h"
#include "phase.h"

/* A computed amount that cannot be trusted fires nothing. */
static bool amounts_usable(const rgp_engine *e, const rgp_image_rule *rule)
{
    const rgp_image_action *action = image_ACTIONS(e) + rule->first_action;
    for (uint32_t i = 0; i < rule->actions; i++) {
        if (takes_amount(&action[i]) && !rgp_usable(read_ref(e, action[i].value).quality)) {
            return false;
        }
        if (action[i].kind == RGP_ACTION_TIMED && (!rgp_usable(read_ref(e, action[i].duration).quality) ||
                                                   !rgp_usable(read_ref(e, action[i].period).quality))) {
            return false;
        }
    }
    return rgp_usable(read_ref(e, rule->holdoff).quality);
}

/* The time that a timed action takes with all its times. */
static uint64_t width_of(const rgp_engine *e, const rgp_image_action *action)
{
    const uint64_t once = rgp_microseconds(read_ref(e, action->duration).value);
    return once + (action->times - 1u) * rgp_microseconds(read_ref(e, action->period).value);
}

/* An action that drives; gives how long it does, 0 for one that is not timed. */
static uint64_t drive_by(rgp_engine *e, uint32_t rule, const rgp_image_action *action)
{
    const bool timed = action->kind == RGP_ACTION_TIMED;
    const uint64_t width = timed ? width_of(e, action) : 0;
    const uint64_t until = timed ? part_head(e)->now_us + width : UINT64_MAX;
    rgp__engine_claim(e, rule, action->claim, rgp__engine_amount(e, action), until);
    note_end(e, timed && action->times > 1 ? rgp__engine_repeat(e, action->claim, action) : until);
    return width;
}

/* The holdoff begins when the longest of its actions is over. */
static void fire(rgp_engine *e, uint32_t index, const rgp_image_rule *rule)
{
    const rgp_image_action *action = image_ACTIONS(e) + rule->first_action;
    uint64_t longest = 0;
    raise_event(e, RGP_EVENT_FIRED, 0, index, 0.0f);
    for (uint32_t i = 0; i < rule->actions; i++) {
        if (rgp_action_drives(action[i].kind)) {
            const uint64_t width = drive_by(e, index, &action[i]);
            longest = width > longest ? width : longest;
        } else {
            rgp__engine_act_with(e, rule->first_action + i);
        }
    }
    rgp_pulse_fire(&part_rule(e)[index].pulse, part_head(e)->now_us, longest,
                   rgp_microseconds(read_ref(e, rule->holdoff).value));
}

/* An event that comes while the rule acts or holds off is dropped, and told; a condition is asked again anyway. */
static void try_to_fire(rgp_engine *e, uint32_t index, const rgp_image_rule *rule)
{
    const rgp__rule_state *is = &part_rule(e)[index];
    if (is->blocked) {
        return;
    }
    const rgp_pulse_phase phase = rgp_pulse_at(&is->pulse, part_head(e)->now_us);
    if (phase == RGP_PULSE_READY) {
        if (amounts_usable(e, rule)) {
            fire(e, index, rule);
        }
    } else if (!rule->repeats) {
        raise_event(e, RGP_EVENT_DROPPED, (uint8_t)phase, index, 0.0f);
    }
}

/* In the order of the file. Rules see the values of this tick and the states as the last tick has left them, so no rule
 * sees what another has done in the same tick. A rule at rest costs the two loads and the comparison at the top. */
void rgp__phase_rules(rgp_engine *e)
{
    const rgp__engine_head *const head = part_head(e);
    const rgp_image_rule *rule = image_RULES(e);
    const float *const value = e->value;
    const rgp__rule_state *is = part_rule(e);
    const uint32_t rules = head->stopped ? 0 : COUNT(e, RULES);
    const uint64_t now_us = head->now_us;
    for (uint32_t i = 0; i < rules; i++, rule++, is++) {
        const uint32_t slot = rule->trigger;
        if (slot < RGP_REF_NONE) {
            if (value[slot] == 0.0f || (rule->repeats && now_us < is->pulse.ready_at)) {
                continue;
            }
            if (rgp_usable(e->quality[slot])) {
                try_to_fire(e, i, rule);
            }
        } else if (slot == RGP_REF_NONE ? head->ticks == 0 : read_ref(e, rule->trigger).value != 0.0f) {
            try_to_fire(e, i, rule);
        }
    }
}
