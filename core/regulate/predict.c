/* predict (Smith predictor, first order with dead time): the check of its settings, and its reset. */
#include "rigpulse/regulate/predict.h"

#include "rigpulse/numeric.h"
#include "rigpulse/inside/settings.h"

const char *rgp_predict_fault(const rgp_predict_config *c)
{
    return RGP_FAULT_OF(predict);
}

rgp_status rgp_predict_check(const rgp_predict_config *config)
{
    return rgp_predict_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_predict_reset(rgp_predict_state *state)
{
    *state = (rgp_predict_state){0};
}

/* The places lie `pace` microseconds apart; of a dt that passes several of them each gets its share of the way. */
static void keep(rgp_predict_state *s, float before, uint64_t pace, float dt)
{
    const uint64_t begun = s->since_us;
    s->since_us += rgp_microseconds(dt);
    for (uint32_t i = 0; i < RGP_PREDICT_KEPT && s->since_us >= pace; i++) {
        s->since_us -= pace;
        s->at = (uint16_t)((s->at + 1u) % RGP_PREDICT_KEPT);
        const float share = rgp_seconds((i + 1u) * pace - begun) / dt;
        s->kept[s->at] = before + (s->y - before) * (share < 1.0f ? share : 1.0f);
    }
    s->since_us = s->since_us < pace ? s->since_us : 0;
}

/* The oldest place is dead ago when the newest one is now; `since` has passed since. */
static float delayed(const rgp_predict_state *s, uint64_t pace)
{
    const uint32_t oldest = (s->at + 1u) % RGP_PREDICT_KEPT, behind = (s->at + 2u) % RGP_PREDICT_KEPT;
    return s->kept[oldest] + (s->kept[behind] - s->kept[oldest]) * ((float)s->since_us / (float)pace);
}

rgp_reading rgp_predict_step(const rgp_predict_config *c, rgp_predict_state *s, rgp_reading measured,
                             rgp_reading driven, float dt)
{
    const uint64_t whole = rgp_microseconds(c->dead) / (RGP_PREDICT_KEPT - 1u), pace = whole > 0 ? whole : 1;
    if (rgp_usable(driven.quality) && dt > 0.0f) {
        if (!s->primed) {
            s->primed = 1;
            s->first = driven.value;
        }
        const float before = s->y;
        const float way = (c->gain * (driven.value - s->first) - s->y) - s->lost;
        rgp_add(&s->y, &s->lost, rgp_decay(dt / c->lag) * way);
        if (!rgp_finite(s->y) || !rgp_finite(s->lost)) {
            rgp_predict_reset(s);
        }
        keep(s, before, pace, dt);
    }
    return rgp_number(measured.value + s->y - delayed(s, pace), measured.quality);
}
