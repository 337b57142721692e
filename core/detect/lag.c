#include "rigpulse/detect/gauge.h"
#include "rigpulse/numeric.h"

rp_status rp_lag_check(const rp_lag_config *config)
{
    const bool sound =
        config->within > 0.0f && config->within <= 1e6f && config->least >= 0.0f && config->least <= 1e6f;
    return sound ? RP_OK : RP_E_CONFIG;
}

void rp_lag_reset(rp_lag_state *state)
{
    *state = (rp_lag_state){0};
}

static void drop_oldest(rp_lag_state *s)
{
    s->passing--;
    for (uint32_t i = 0; i < s->passing; i++) {
        s->mid_us[i] = s->mid_us[i + 1];
    }
}

/* Something has left gate `gate` (0: the one that is measured, 1: the other). */
static void pass(rp_lag_state *s, uint8_t gate, uint64_t mid_us)
{
    if (s->passing > 0 && s->first != gate) {
        const uint64_t other = s->mid_us[0];
        const uint64_t apart = mid_us > other ? mid_us - other : other - mid_us;
        const bool later = (gate == 0) == (mid_us > other);
        s->measure = (later ? 1.0f : -1.0f) * rp_seconds(apart);
        s->measured = 1;
        drop_oldest(s);
        return;
    }
    if (s->passing == RP_LAG_PASSING) {
        drop_oldest(s);
    }
    s->first = gate;
    s->mid_us[s->passing++] = mid_us;
}

static void take(const rp_lag_config *config, rp_lag_state *s, uint8_t gate, const rp_port_edge *edge)
{
    if (edge->rising) {
        s->rose_us[gate] = edge->time_us;
        s->known[gate] = 1;
    } else if (s->known[gate] && edge->time_us - s->rose_us[gate] >= rp_microseconds(config->least)) {
        s->known[gate] = 0;
        pass(s, gate, s->rose_us[gate] + (edge->time_us - s->rose_us[gate]) / 2);
    }
}

rp_reading rp_lag_step(const rp_lag_config *config, rp_lag_state *s, const rp_edges *in, const rp_edges *from, float dt)
{
    const rp_quality quality = rp_worst(in->now.quality, from->now.quality);
    uint32_t i = 0, k = 0;
    if (!rp_usable(quality)) {
        s->known[0] = s->known[1] = s->passing = 0;
        s->memory[0].known = s->memory[1].known = 0;
    }
    while (rp_usable(quality) && dt > 0.0f && (i < in->count || k < from->count)) {
        const bool first = k == from->count || (i < in->count && in->edge[i].time_us < from->edge[k].time_us);
        take(config, s, first ? 0 : 1, first ? &in->edge[i++] : &from->edge[k++]);
    }
    while (s->passing > 0 && in->now_us > s->mid_us[0] + rp_microseconds(config->within)) {
        drop_oldest(s);
    }
    return (rp_reading){s->measure, s->measured ? quality : rp_worst(quality, RP_LEARNING)};
}
