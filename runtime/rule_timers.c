/* The timers of rules, which no column holds: how long each is acting and in its holdoff, worked out from its firings
 * row by row. */
#include "recording_parts.h"

#include <math.h>
#include <string.h>

void rgp_recording_begin_timers(rgp_recording *r)
{
    r->timer = g_new0(rgp_firing, rgp_image_count(r->image, RGP_SECTION_RULES) + 1);
    r->firing = g_array_new(FALSE, FALSE, sizeof(rgp_firing));
}

static rgp_firing firing_of(const rgp_recording *r, uint32_t rule, uint32_t row)
{
    const rgp_image_rule *is = (const rgp_image_rule *)rgp_image_at(r->image, RGP_SECTION_RULES) + rule;
    const rgp_image_action *action = rgp_image_at(r->image, RGP_SECTION_ACTIONS);
    float acts = 0.0f;
    for (uint32_t i = is->first_action; i < (uint32_t)is->first_action + is->actions; i++) {
        acts = action[i].kind == RGP_ACTION_TIMED
                   ? fmaxf(acts, rgp_history_setting(r->history, action[i].duration, row))
                   : acts;
    }
    const float all = acts + rgp_history_setting(r->history, is->holdoff, row);
    return (rgp_firing){rgp_recording_time_us(r, row), row, rule, acts, all};
}

void rgp_recording_rule_fired(const rgp_recording *r, uint32_t line, uint32_t row)
{
    for (uint32_t rule = 0; rule < rgp_image_count(r->image, RGP_SECTION_RULES); rule++) {
        const rgp_image_name *name = rgp_image_name_of(r->image, RGP_NAME_RULE, rule, 0);
        if (name && name->line == line) {
            r->timer[rule] = firing_of(r, rule, row);
            g_array_append_val(r->firing, r->timer[rule]);
        }
    }
}

void rgp_recording_timers_before(rgp_recording *r, uint32_t row)
{
    memset(r->timer, 0, rgp_image_count(r->image, RGP_SECTION_RULES) * sizeof *r->timer);
    r->next_firing = 0;
    rgp_recording_timers_at(r, row);
}

void rgp_recording_timers_at(rgp_recording *r, uint32_t row)
{
    for (; r->next_firing < r->firing->len; r->next_firing++) {
        const rgp_firing *f = &g_array_index(r->firing, rgp_firing, r->next_firing);
        if (f->row > row) {
            return;
        }
        r->timer[f->rule] = *f;
    }
}

void rgp_recording_put_timers(const rgp_recording *r, uint32_t row, uint64_t now_us)
{
    for (uint32_t rule = 0; rule < rgp_image_count(r->image, RGP_SECTION_RULES); rule++) {
        rgp_firing *t = &r->timer[rule];
        const float passed = (float)(now_us - t->time_us) * 1e-6f;
        if (passed < t->all) {
            rgp_history_put(r->history, rgp_history_rule(r->history, rule), row,
                            passed < t->acts ? t->acts - passed : passed - t->all, RGP_GOOD);
        }
    }
}
