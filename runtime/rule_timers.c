/* The timers of rules, which no column holds: how long each was acting and in its holdoff, worked out from its firings.
 */
#include "recording_parts.h"

#include <math.h>

static void put_timer(const rgp_recording *r, uint32_t rule, uint32_t row)
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
    const uint64_t begin = rgp_recording_time_us(r, row);
    for (uint32_t at = row; at < r->rows; at++) {
        const float passed = (float)(rgp_recording_time_us(r, at) - begin) * 1e-6f;
        if (passed >= all) {
            return;
        }
        rgp_history_put(r->history, rgp_history_rule(r->history, rule), at,
                        passed < acts ? acts - passed : passed - all, RGP_GOOD);
    }
}

void rgp_recording_put_timers(const rgp_recording *r)
{
    const GPtrArray *all = rgp_history_occurrences(r->history);
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *o = all->pdata[i];
        for (uint32_t rule = 0; o->kind == RGP_EVENT_FIRED && rule < rgp_image_count(r->image, RGP_SECTION_RULES);
             rule++) {
            const rgp_image_name *name = rgp_image_name_of(r->image, RGP_NAME_RULE, rule, 0);
            if (name && name->line == o->line) {
                put_timer(r, rule, (uint32_t)o->row);
            }
        }
    }
}
