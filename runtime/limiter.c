/* Events that come in storms: the first few of each second pass, the rest are counted. */
#include "limiter.h"

#include <glib.h>

#define SECOND_US 1000000u

typedef struct counter {
    uint64_t since_us;
    uint32_t told, untold;
    bool begins; /* the first that is left out has not been told of yet */
} counter;

struct rgp_limiter {
    const rgp_image_header *image;
    counter *counter[RGP_EVENTS]; /* by source; NULL: every event of this kind is told */
    uint32_t sources[RGP_EVENTS];
    uint32_t waiting; /* counters that have left something out */
};

static void limit_kind(rgp_limiter *c, uint8_t kind, uint32_t section)
{
    c->sources[kind] = rgp_image_count(c->image, section);
    c->counter[kind] = g_new0(counter, c->sources[kind] + 1u);
}

rgp_limiter *rgp_limiter_new(const rgp_image_header *image)
{
    rgp_limiter *c = g_new0(rgp_limiter, 1);
    c->image = image;
    limit_kind(c, RGP_EVENT_FIRED, RGP_SECTION_RULES);
    limit_kind(c, RGP_EVENT_DROPPED, RGP_SECTION_RULES);
    limit_kind(c, RGP_EVENT_MARK, RGP_SECTION_ACTIONS);
    limit_kind(c, RGP_EVENT_PARAM, RGP_SECTION_PARAMS);
    limit_kind(c, RGP_EVENT_SENSOR, RGP_SECTION_SENSORS);
    limit_kind(c, RGP_EVENT_OVERFLOW, RGP_SECTION_SENSORS);
    limit_kind(c, RGP_EVENT_GUARD, RGP_SECTION_GUARDS);
    return c;
}

void rgp_limiter_free(rgp_limiter *c)
{
    for (uint32_t i = 0; c && i < RGP_EVENTS; i++) {
        g_free(c->counter[i]);
    }
    g_free(c);
}

/* The timers of a rule are worked out again from its firings, so those of a rule that has any are all told. */
static bool has_timers(const rgp_image_header *image, uint32_t rule)
{
    const rgp_image_rule *r = (const rgp_image_rule *)rgp_image_at(image, RGP_SECTION_RULES) + rule;
    const rgp_image_action *action = rgp_image_at(image, RGP_SECTION_ACTIONS);
    const float *constant = rgp_image_at(image, RGP_SECTION_CONSTANTS);
    bool has = !(r->holdoff & RGP_REF_CONSTANT) || constant[r->holdoff & ~RGP_REF_CONSTANT] > 0.0f;
    for (uint32_t i = r->first_action; i < (uint32_t)r->first_action + r->actions; i++) {
        has |= action[i].kind == RGP_ACTION_TIMED;
    }
    return has;
}

bool rgp_limiter_lets(rgp_limiter *c, const rgp_event *event, uint64_t time_us)
{
    const uint8_t kind = event->kind;
    const bool asked = kind == RGP_EVENT_PARAM && !event->reason;
    if (asked || !c->counter[kind] || event->source >= c->sources[kind] ||
        (kind == RGP_EVENT_FIRED && has_timers(c->image, event->source))) {
        return true;
    }
    counter *n = &c->counter[kind][event->source];
    if (n->untold == 0 && time_us - n->since_us >= SECOND_US) {
        *n = (counter){.since_us = time_us};
    }
    if (n->told < RGP_LIMITER_EACH_SECOND) {
        n->told++;
        return true;
    }
    c->waiting += n->untold == 0;
    n->begins |= n->untold == 0;
    n->untold++;
    return false;
}

bool rgp_limiter_sums_up(rgp_limiter *c, uint64_t time_us, rgp_event *event)
{
    for (uint8_t kind = 0; c->waiting > 0 && kind < RGP_EVENTS; kind++) {
        for (uint32_t i = 0; c->counter[kind] && i < c->sources[kind]; i++) {
            counter *n = &c->counter[kind][i];
            if (n->begins) {
                *event = (rgp_event){RGP_EVENT_STORM, kind, (uint16_t)i, 0.0f, time_us};
                n->begins = false;
                return true;
            }
            if (n->untold > 0 && time_us - n->since_us >= SECOND_US) {
                *event = (rgp_event){RGP_EVENT_STORM, kind, (uint16_t)i, (float)n->untold, time_us};
                *n = (counter){.since_us = time_us};
                c->waiting--;
                return true;
            }
        }
    }
    return false;
}
