/* Sensors that the hook-up says are slower than the tick: what that does to when they are late, and to slopes. */
#include "check.h"

#include "image/ops.h"

#include <math.h>
#include <string.h>

#define BEAT_LEAST 1e-6 /* of a tick: what rounding of the numbers makes */

double rgp_sensor_period(const rgp_sensor_item *p)
{
    for (uint32_t i = 0; p->kind->setting[i].word; i++) {
        if (strcmp(p->kind->setting[i].word, "period") == 0) {
            return p->value[i];
        }
    }
    return 0.0;
}

/* The sensor's new readings reach this value one by one: nothing between makes a value of its own in every tick. */
static bool at_the_pace_of(const node *n, const symbol *s)
{
    while (n->kind == NODE_STAGE && rgp_ops[n->stage->op].pace != RGP_PACE_TICK) {
        n = n->a;
    }
    if (n->kind != NODE_NAME || n->symbol->kind != SYMBOL_SIGNAL) {
        return n->kind == NODE_NAME && n->symbol == s;
    }
    return n->symbol->value->kind != NODE_LOOP && at_the_pace_of(n->symbol->value, s);
}

static bool has_slope(const node *n, const symbol *s)
{
    return n && ((n->kind == NODE_STAGE && n->stage->op == RGP_OP_SLOPE && at_the_pace_of(n->a, s)) ||
                 has_slope(n->a, s) || has_slope(n->b, s));
}

static bool has_derivative(const loop *l, const symbol *s)
{
    return l->method && l->method->line->op == RGP_OP_PID && at_the_pace_of(l->measured, s);
}

/* The word for what takes a slope of the sensor's readings; NULL: nothing does. */
static const char *slope_of(const tree *t, const symbol *s)
{
    for (unsigned i = 0; i < t->symbols; i++) {
        if (t->symbol[i]->kind == SYMBOL_SIGNAL && has_slope(t->symbol[i]->value, s)) {
            return "slope";
        }
    }
    for (unsigned i = 0; i < t->loops; i++) {
        if (has_derivative(t->loop[i], s)) {
            return "derivative";
        }
    }
    return NULL;
}

/* New readings come by turns a tick more and a tick less apart. */
static void warn_of_beat(const tree *t, const symbol *s, double period)
{
    const double tick = t->tick_us / 1e6, ticks = period / tick, whole = floor(ticks);
    const char *of = slope_of(t, s);
    if (of && fabs(ticks - round(ticks)) > BEAT_LEAST) {
        report_warning(t->report, s->at, "take a tick that divides it",
                       "'%s' has a new reading every %g ms, which the tick of %g ms takes %g and %g ms apart: a %s of "
                       "it wavers by that",
                       s->name, period * 1e3, tick * 1e3, whole * tick * 1e3, (whole + 1.0) * tick * 1e3, of);
    }
}

void check_paces(tree *t, const rgp_hookup *h)
{
    for (unsigned i = 0; i < h->sensors; i++) {
        const symbol *s = tree_channel(t, SYMBOL_SENSOR, h->sensor[i].sensor);
        const double period = rgp_sensor_period(&h->sensor[i]);
        if (s->every && s->every_s < period) {
            report_warning(t->report, s->every->at, "say a time that is longer than that",
                           "'%s' has a new reading every %g ms, and is late before the next one comes", s->name,
                           period * 1e3);
        }
        if (period * 1e6 > t->tick_us) {
            warn_of_beat(t, s, period);
        }
    }
}
