/* bands (multi-level comparator with hysteresis): the check of its settings, and its reset. */
#include "rigpulse/detect/bands.h"

#include "rigpulse/inside/settings.h"
#include "rigpulse/numeric.h"

/* The stretch of the quantity in which the answer at border i depends on where one came from. */
static float zone_low(const rgp_bands_config *config, uint32_t i)
{
    return config->above >> i & 1u ? config->border[i] - config->margin : config->border[i];
}

/* The upper end of that stretch. */
static float zone_high(const rgp_bands_config *config, uint32_t i)
{
    return config->above >> i & 1u ? config->border[i] : config->border[i] + config->margin;
}

const char *rgp_bands_fault(const rgp_bands_config *c)
{
    const char *fault = RGP_FAULT_OF(bands);
    for (uint32_t i = 0; !fault && i < c->borders; i++) {
        if (!rgp_finite(c->border[i])) {
            return RGP_WORDS("border: numbers");
        }
        if (i > 0 && !(c->border[i] > c->border[i - 1] && zone_low(c, i) >= zone_high(c, i - 1))) {
            return RGP_WORDS("border: rising, and farther apart than the margins reach");
        }
    }
    return fault;
}

rgp_status rgp_bands_check(const rgp_bands_config *config)
{
    return rgp_bands_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_bands_reset(rgp_bands_state *state)
{
    state->known = 0;
    state->band = 0;
}

uint32_t rgp_bands_move(const rgp_bands_config *config, rgp_bands_state *state, float value)
{
    const float *const border = config->border;
    const uint32_t above = config->above;
    const float margin = state->known ? config->margin : 0.0f;
    uint32_t k = state->band;
    while (k < config->borders && (above >> k & 1u ? value > border[k] : value >= border[k] + margin)) {
        k++;
    }
    while (k > 0 && (above >> (k - 1) & 1u ? value <= border[k - 1] - margin : value < border[k - 1])) {
        k--;
    }
    state->known = 1;
    state->band = (uint8_t)k;
    return k;
}
