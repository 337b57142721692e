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

/* A rule whose trigger is not 0. */
static void look_at(rgp_engine *e, uint32_t index, const rgp_image_rule *rule)
{
    const uint32_t slot = rule->trigger;
    if (slot < RGP_REF_NONE) {
        const bool waits = rule->repeats && part_head(e)->now_us < part_rule(e)[index].pulse.ready_at;
        if (!waits && rgp_usable(e->quality[slot])) {
            try_to_fire(e, index, rule);
        }
    } else if (slot == RGP_REF_NONE ? part_head(e)->ticks == 0 : read_ref(e, rule->trigger).value != 0.0f) {
        try_to_fire(e, index, rule);
    }
}

/* A bit for each rule of a word whose trigger is not 0, or is no slot. */
static uint32_t wanting(const rgp_engine *e, const rgp_image_rule *rule, uint32_t rules)
{
    uint32_t bits = 0;
    for (uint32_t i = 0; i < rules; i++) {
        const uint32_t slot = rule[i].trigger;
        bits |= (uint32_t)(slot >= RGP_REF_NONE || e->value[slot] != 0.0f) << i;
    }
    return bits;
}

/* While no sensor and no parameter changes only those are looked at that wanted to fire before, or hang on
 * something else. */
static void look_by_bits(rgp_engine *e, uint32_t rules)
{
    const rgp_image_rule *const rule = image_RULES(e);
    rgp__engine_head *const head = part_head(e);
    const bool anew = rules > 0 && head->wanting_at != head->moves;
    head->wanting_at = anew ? head->moves : head->wanting_at;
    for (uint32_t first = 0; first < rules; first += 32u) {
        uint32_t *const word = &part_wanting(e)[first / 32u];
        if (anew) {
            *word = wanting(e, rule + first, rules - first < 32u ? rules - first : 32u);
        }
        uint32_t bits = *word | part_unsteady(e)[first / 32u];
        for (uint32_t i = first; bits; i++, bits >>= 1) {
            if (bits & 1u && (rule[i].trigger >= RGP_REF_NONE || e->value[rule[i].trigger] != 0.0f)) {
                look_at(e, i, &rule[i]);
            }
        }
    }
}

/* In the order of the file. Rules see the values of this tick and the states as the last tick has left them, so no rule
 * sees what another has done in the same tick. A rule at rest costs the two loads and the comparison in the loop. */
void rgp__phase_rules(rgp_engine *e)
{
    const rgp_image_rule *const rule = image_RULES(e);
    const uint32_t rules = part_head(e)->stopped ? 0 : COUNT(e, RULES);
    if (part_head(e)->unmoved) {
        look_by_bits(e, rules);
        return;
    }
    for (uint32_t i = 0; i < rules; i++) {
        if (rule[i].trigger >= RGP_REF_NONE || e->value[rule[i].trigger] != 0.0f) {
            look_at(e, i, &rule[i]);
        }
    }
}
