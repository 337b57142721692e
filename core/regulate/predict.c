#include "rigpulse/regulate/predict.h"

rp_status rp_predict_check(const rp_predict_config *c)
{
    const bool times = c->lag > 0.0f && c->lag <= 1e6f && c->dead > 0.0f && c->dead <= 1e6f;
    return times && rp_finite(c->gain) && c->gain != 0.0f ? RP_OK : RP_E_CONFIG;
}

void rp_predict_reset(rp_predict_state *state)
{
    *state = (rp_predict_state){0};
}

/* The places lie `pace` microseconds apart; of a dt that passes several of them each gets its share of the way. */
static void keep(rp_predict_state *s, float before, uint64_t pace, float dt)
{
    const uint64_t begun = s->since_us;
    s->since_us += rp_microseconds(dt);
    for (uint32_t i = 0; i < RP_PREDICT_KEPT && s->since_us >= pace; i++) {
        s->since_us -= pace;
        s->at = (uint16_t)((s->at + 1u) % RP_PREDICT_KEPT);
        const float share = rp_seconds((i + 1u) * pace - begun) / dt;
        s->kept[s->at] = before + (s->y - before) * (share < 1.0f ? share : 1.0f);
    }
    s->since_us = s->since_us < pace ? s->since_us : 0;
}

/* The oldest place is dead ago when the newest one is now; `since` has passed since. */
static float delayed(const rp_predict_state *s, uint64_t pace)
{
    const uint32_t oldest = (s->at + 1u) % RP_PREDICT_KEPT, behind = (s->at + 2u) % RP_PREDICT_KEPT;
    return s->kept[oldest] + (s->kept[behind] - s->kept[oldest]) * ((float)s->since_us / (float)pace);
}

rp_reading rp_predict_step(const rp_predict_config *c, rp_predict_state *s, rp_reading measured, rp_reading driven,
                           float dt)
{
    const uint64_t whole = rp_microseconds(c->dead) / (RP_PREDICT_KEPT - 1u), pace = whole > 0 ? whole : 1;
    if (rp_usable(driven.quality) && dt > 0.0f) {
        if (!s->primed) {
            s->primed = 1;
            s->first = driven.value;
        }
        const float before = s->y;
        const float way = (c->gain * (driven.value - s->first) - s->y) - s->lost;
        rp_add(&s->y, &s->lost, rp_decay(dt / c->lag) * way);
        if (!rp_finite(s->y) || !rp_finite(s->lost)) {
            rp_predict_reset(s);
        }
        keep(s, before, pace, dt);
    }
    return rp_number(measured.value + s->y - delayed(s, pace), measured.quality);
}
