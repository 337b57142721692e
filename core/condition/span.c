/* span (range learned in practice): the check of its settings, its reset, and what survives a power cycle. */
#include "rigpulse/condition/span.h"
#include "rigpulse/inside/settings.h"

const char *rgp_span_fault(const rgp_span_config *c)
{
    return RGP_FAULT_OF(span);
}

rgp_status rgp_span_check(const rgp_span_config *config)
{
    return rgp_span_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_span_reset(rgp_span_state *state)
{
    *state = (rgp_span_state){0};
}

/* The middle one of three: a single spike widens no span. */
static float middle(float a, float b, float c)
{
    const float low = a < b ? a : b, high = a < b ? b : a;
    return c < low ? low : c > high ? high : c;
}

/* The practice is over when its time is, or later, once three readings have come. A practice without enough movement
 * begins anew by itself. */
void rgp_span_learn(const rgp_span_config *config, rgp_span_state *state, float value, float dt)
{
    state->practised_us += state->seen == 0 ? 0 : rgp_microseconds(dt);
    if (state->seen >= 2) {
        const float m = middle(state->before[0], state->before[1], value);
        state->low = state->known && state->low < m ? state->low : m;
        state->high = state->known && state->high > m ? state->high : m;
        state->known = 1;
    }
    state->before[0] = state->before[1];
    state->before[1] = value;
    state->seen = (uint8_t)(state->seen < 3 ? state->seen + 1 : 3);
    if (state->practised_us < rgp_microseconds(config->time) || !state->known) {
        return;
    }
    const float width = state->high - state->low;
    if (width >= config->least_span) {
        state->learned = 1;
    } else {
        rgp_span_reset(state);
    }
    state->news = 1;
    state->width = width;
}

bool rgp_span_retain(const rgp_span_state *state, rgp_retained *kept)
{
    *kept = (rgp_retained){.a = state->low, .b = state->high};
    return state->learned;
}

bool rgp_span_restore(rgp_span_state *state, const rgp_retained *kept)
{
    if (!rgp_finite(kept->a) || !rgp_finite(kept->b) || !(kept->b > kept->a)) {
        return false;
    }
    *state = (rgp_span_state){.low = kept->a, .high = kept->b, .known = 1, .learned = 1};
    return true;
}

/* Asking takes the news back. */
rgp_learning rgp_span_news(rgp_span_state *state)
{
    const rgp_learning news = {.what = (uint8_t)(!state->news     ? RGP_LEARNING_ON
                                                 : state->learned ? RGP_LEARNING_DONE
                                                                  : RGP_LEARNING_ANEW),
                               .going = !state->learned,
                               .value = state->width};
    state->news = 0;
    return news;
}
