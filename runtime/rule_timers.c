/* The timers of rules, which no column holds: how long each is acting and in its holdoff, worked out from its firings
 * row by row. */
#include "recording_parts.h"

#include <math.h>

typedef struct rgp_rule_timer {
    bool runs;
    uint64_t begin_us;
    float acts, all; /* seconds: up to the end of its actions, of its holdoff */
} rgp_rule_timer;

rgp_rule_timer *rgp_recording_new_timers(const rgp_recording *r)
{
    return g_new0(rgp_rule_timer, rgp_image_count(r->image, RGP_SECTION_RULES) + 1);
}

static void begin_timer(const rgp_recording *r, uint32_t rule, uint32_t row)
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
    r->timer[rule] = (rgp_rule_timer){true, rgp_recording_time_us(r, row), acts, all};
}

void rgp_recording_rule_fired(const rgp_recording *r, uint32_t line, uint32_t row)
{
    for (uint32_t rule = 0; rule < rgp_image_count(r->image, RGP_SECTION_RULES); rule++) {
        const rgp_image_name *name = rgp_image_name_of(r->image, RGP_NAME_RULE, rule, 0);
        if (name && name->line == line) {
            begin_timer(r, rule, row);
        }
    }
}

void rgp_recording_put_timers(const rgp_recording *r)
{
    const uint32_t row = r->rows - 1;
    const uint64_t now = rgp_recording_time_us(r, row);
    for (uint32_t rule = 0; rule < rgp_image_count(r->image, RGP_SECTION_RULES); rule++) {
        rgp_rule_timer *t = &r->timer[rule];
        const float passed = (float)(now - t->begin_us) * 1e-6f;
        t->runs = t->runs && passed < t->all;
        if (t->runs) {
            rgp_history_put(r->history, rgp_history_rule(r->history, rule), row,
                            passed < t->acts ? t->acts - passed : passed - t->all, RGP_GOOD);
        }
    }
}
