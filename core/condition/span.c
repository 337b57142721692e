#include "rigpulse/condition/span.h"

rp_status rp_span_check(const rp_span_config *config)
{
    return rp_finite(config->time) && config->time > 0.0f && rp_finite(config->least_span) &&
                   config->least_span > 0.0f && config->falling <= 1
               ? RP_OK
               : RP_E_CONFIG;
}

void rp_span_reset(rp_span_state *state)
{
    *state = (rp_span_state){0};
}

static float middle(float a, float b, float c)
{
    const float low = a < b ? a : b, high = a < b ? b : a;
    return c < low ? low : c > high ? high : c;
}

void rp_span_learn(const rp_span_config *config, rp_span_state *state, float value, float dt)
{
    state->practised_us += state->seen == 0 ? 0 : rp_microseconds(dt);
    if (state->seen >= 2) {
        const float m = middle(state->before[0], state->before[1], value);
        state->low = state->known && state->low < m ? state->low : m;
        state->high = state->known && state->high > m ? state->high : m;
        state->known = 1;
    }
    state->before[0] = state->before[1];
    state->before[1] = value;
    state->seen = (uint8_t)(state->seen < 3 ? state->seen + 1 : 3);
    if (state->practised_us < rp_microseconds(config->time) || !state->known) {
        return;
    }
    const float width = state->high - state->low;
    if (width >= config->least_span) {
        state->learned = 1;
    } else {
        rp_span_reset(state);
    }
    state->news = 1;
    state->width = width;
}

bool rp_span_keep(const rp_span_state *state, rp_kept *kept)
{
    *kept = (rp_kept){.a = state->low, .b = state->high};
    return state->learned;
}

bool rp_span_recall(rp_span_state *state, const rp_kept *kept)
{
    if (!rp_finite(kept->a) || !rp_finite(kept->b) || !(kept->b > kept->a)) {
        return false;
    }
    *state = (rp_span_state){.low = kept->a, .high = kept->b, .known = 1, .learned = 1};
    return true;
}

rp_learning rp_span_news(rp_span_state *state)
{
    const rp_learning news = {.what = (uint8_t)(!state->news     ? RP_LEARNING_ON
                                                : state->learned ? RP_LEARNING_DONE
                                                                 : RP_LEARNING_ANEW),
                              .going = !state->learned,
                              .value = state->width};
    state->news = 0;
    return news;
}
