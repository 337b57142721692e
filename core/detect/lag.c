/* lag (transit time between two gates): the check of its settings, its reset, and matching what passes. */
#include "rigpulse/detect/gauge.h"
#include "rigpulse/numeric.h"
#include "rigpulse/inside/settings.h"

const char *rgp_lag_fault(const rgp_lag_config *c)
{
    return RGP_FAULT_OF(lag);
}

rgp_status rgp_lag_check(const rgp_lag_config *config)
{
    return rgp_lag_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_lag_reset(rgp_lag_state *state)
{
    *state = (rgp_lag_state){0};
}

/* At most RGP_LAG_PASSING moves. */
static void drop_oldest(rgp_lag_state *s)
{
    s->passing--;
    for (uint32_t i = 0; i < s->passing; i++) {
        s->mid_us[i] = s->mid_us[i + 1];
    }
}

/* mid_us[] holds what has been at one gate and not yet at the other, oldest first; all of it has been at the same one,
 * `first`. */
static void add_passing(const rgp_lag_config *config, rgp_lag_state *s, uint8_t gate, uint64_t mid_us)
{
    if (s->passing == RGP_LAG_PASSING) {
        s->until_us = mid_us + rgp_microseconds(config->within);
        drop_oldest(s);
    }
    s->first = gate;
    s->mid_us[s->passing++] = mid_us;
}

/* Something has left gate `gate` (0: the one that is measured, 1: the other). */
static void pass(const rgp_lag_config *config, rgp_lag_state *s, uint8_t gate, uint64_t mid_us)
{
    if (s->until_us > 0) { /* who is who is not known: it only has to become quiet */
        s->until_us = mid_us + rgp_microseconds(config->within);
    } else if (s->passing > 0 && s->first != gate) {
        const uint64_t other = s->mid_us[0];
        const uint64_t apart = mid_us > other ? mid_us - other : other - mid_us;
        const bool later = (gate == 0) == (mid_us > other);
        s->measure = (later ? 1.0f : -1.0f) * rgp_seconds(apart);
        s->measured = 1;
        drop_oldest(s);
    } else {
        add_passing(config, s, gate, mid_us);
    }
}

/* Only a passage whose beginning was seen has a mid-time. */
static void change(const rgp_lag_config *config, rgp_lag_state *s, uint8_t gate, uint64_t at_us)
{
    rgp_lag_gate *g = &s->gate[gate];
    g->is = !g->is;
    if (g->is) {
        g->rose = 1;
        g->rose_us = at_us;
    } else if (g->rose) {
        g->rose = 0;
        pass(config, s, gate, g->rose_us + (at_us - g->rose_us) / 2);
    }
}

/* A change that has lasted long enough by now counts. */
static void settle(const rgp_lag_config *config, rgp_lag_state *s, uint8_t gate, uint64_t now_us)
{
    rgp_lag_gate *g = &s->gate[gate];
    if (g->waits && now_us - g->since_us >= rgp_microseconds(config->least)) {
        g->waits = 0;
        change(config, s, gate, g->since_us);
    }
}

/* The edges of both gates come in the order of their times: rgp_lag_step() merges them. */
static void take_edge(const rgp_lag_config *config, rgp_lag_state *s, uint8_t gate, const rgp_port_edge *edge)
{
    rgp_lag_gate *g = &s->gate[gate];
    settle(config, s, gate, edge->time_us);
    if (g->waits) { /* back before it counted */
        g->waits = 0;
    } else if (g->is != (edge->rising != 0)) {
        g->waits = 1;
        g->since_us = edge->time_us;
        settle(config, s, gate, edge->time_us);
    }
}

/* After a bad reading a change may have been missed. */
static void forget(rgp_lag_state *s)
{
    for (uint32_t gate = 0; gate < 2; gate++) {
        s->gate[gate] = (rgp_lag_gate){0};
    }
    s->passing = 0;
    s->until_us = 0;
}

/* The state before the first edge is the other one than that edge leads to. */
static void find_gate(rgp_lag_gate *g, const rgp_edges *in)
{
    if (!g->began) {
        g->began = 1;
        g->is = in->count > 0 ? in->edge[0].rising == 0 : in->now.value != 0.0f;
    }
}

rgp_reading rgp_lag_step(const rgp_lag_config *config, rgp_lag_state *s, const rgp_edges *in, const rgp_edges *from,
                         float dt)
{
    const rgp_quality quality = rgp_worst(in->now.quality, from->now.quality);
    uint32_t i = 0, k = 0;
    if (!rgp_usable(quality) || in->lost > 0 || from->lost > 0) {
        forget(s);
    } else if (dt > 0.0f) {
        find_gate(&s->gate[0], in);
        find_gate(&s->gate[1], from);
        while (i < in->count || k < from->count) {
            const bool first = k == from->count || (i < in->count && in->edge[i].time_us < from->edge[k].time_us);
            take_edge(config, s, first ? 0 : 1, first ? &in->edge[i++] : &from->edge[k++]);
        }
        settle(config, s, 0, in->now_us);
        settle(config, s, 1, in->now_us);
    }
    while (s->passing > 0 && in->now_us > s->mid_us[0] + rgp_microseconds(config->within)) {
        drop_oldest(s);
    }
    if (s->until_us > 0 && in->now_us > s->until_us) {
        s->until_us = 0;
        s->passing = 0;
    }
    if (s->until_us > 0) {
        return (rgp_reading){s->measure, rgp_worst(quality, RGP_MISSING)};
    }
    return (rgp_reading){s->measure, s->measured ? quality : rgp_worst(quality, RGP_LEARNING)};
}
