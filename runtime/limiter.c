#include "limiter.h"

#include <glib.h>

#define SECOND_US 1000000u

typedef struct counter {
    uint64_t since_us;
    uint32_t told, untold;
    bool begins; /* the first that is left out has not been told of yet */
} counter;

struct rp_calm {
    const rp_image_header *image;
    counter *counter[RP_EVENTS]; /* by source; NULL: every event of this kind is told */
    uint32_t sources[RP_EVENTS];
    uint32_t waiting; /* counters that have left something out */
};

static void limit_kind(rp_calm *c, uint8_t kind, uint32_t section)
{
    c->sources[kind] = rp_image_count(c->image, section);
    c->counter[kind] = g_new0(counter, c->sources[kind] + 1u);
}

rp_calm *rp_calm_new(const rp_image_header *image)
{
    rp_calm *c = g_new0(rp_calm, 1);
    c->image = image;
    limit_kind(c, RP_EVENT_FIRED, RP_SECTION_RULES);
    limit_kind(c, RP_EVENT_DROPPED, RP_SECTION_RULES);
    limit_kind(c, RP_EVENT_MARK, RP_SECTION_ACTIONS);
    limit_kind(c, RP_EVENT_PARAM, RP_SECTION_PARAMS);
    limit_kind(c, RP_EVENT_SENSOR, RP_SECTION_SENSORS);
    limit_kind(c, RP_EVENT_OVERFLOW, RP_SECTION_SENSORS);
    limit_kind(c, RP_EVENT_GUARD, RP_SECTION_GUARDS);
    return c;
}

void rp_calm_free(rp_calm *c)
{
    for (uint32_t i = 0; c && i < RP_EVENTS; i++) {
        g_free(c->counter[i]);
    }
    g_free(c);
}

/* The timers of a rule are worked out again from its firings, so those of a rule that has any are all told. */
static bool has_timers(const rp_image_header *image, uint32_t rule)
{
    const rp_image_rule *r = (const rp_image_rule *)rp_image_at(image, RP_SECTION_RULES) + rule;
    const rp_image_action *action = rp_image_at(image, RP_SECTION_ACTIONS);
    const float *constant = rp_image_at(image, RP_SECTION_CONSTANTS);
    bool has = !(r->holdoff & RP_REF_CONSTANT) || constant[r->holdoff & ~RP_REF_CONSTANT] > 0.0f;
    for (uint32_t i = r->first_action; i < (uint32_t)r->first_action + r->actions; i++) {
        has |= action[i].kind == RP_ACTION_TIMED;
    }
    return has;
}

bool rp_calm_lets(rp_calm *c, const rp_event *event, uint64_t time_us)
{
    const uint8_t kind = event->kind;
    const bool asked = kind == RP_EVENT_PARAM && !event->reason;
    if (asked || !c->counter[kind] || event->source >= c->sources[kind] ||
        (kind == RP_EVENT_FIRED && has_timers(c->image, event->source))) {
        return true;
    }
    counter *n = &c->counter[kind][event->source];
    if (n->untold == 0 && time_us - n->since_us >= SECOND_US) {
        *n = (counter){.since_us = time_us};
    }
    if (n->told < RP_CALM_EACH_SECOND) {
        n->told++;
        return true;
    }
    c->waiting += n->untold == 0;
    n->begins |= n->untold == 0;
    n->untold++;
    return false;
}

bool rp_calm_sums_up(rp_calm *c, uint64_t time_us, rp_event *event)
{
    for (uint8_t kind = 0; c->waiting > 0 && kind < RP_EVENTS; kind++) {
        for (uint32_t i = 0; c->counter[kind] && i < c->sources[kind]; i++) {
            counter *n = &c->counter[kind][i];
            if (n->begins) {
                *event = (rp_event){RP_EVENT_STORM, kind, (uint16_t)i, 0.0f};
                n->begins = false;
                return true;
            }
            if (n->untold > 0 && time_us - n->since_us >= SECOND_US) {
                *event = (rp_event){RP_EVENT_STORM, kind, (uint16_t)i, (float)n->untold};
                *n = (counter){.since_us = time_us};
                c->waiting--;
                return true;
            }
        }
    }
    return false;
}
