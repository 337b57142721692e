#include "rigpulse/detect/bands.h"

#include "rigpulse/numeric.h"

/* The stretch of the quantity in which the answer at border i depends on where one came from. */
static float zone_low(const rp_bands_config *config, uint32_t i)
{
    return config->above >> i & 1u ? config->border[i] - config->margin : config->border[i];
}

static float zone_high(const rp_bands_config *config, uint32_t i)
{
    return config->above >> i & 1u ? config->border[i] : config->border[i] + config->margin;
}

rp_status rp_bands_check(const rp_bands_config *config)
{
    if (config->borders < 1 || config->borders > RP_BANDS_BORDERS_MAX || !rp_finite(config->margin) ||
        !(config->margin >= 0.0f)) {
        return RP_E_CONFIG;
    }
    for (uint32_t i = 0; i < config->borders; i++) {
        if (!rp_finite(config->border[i])) {
            return RP_E_CONFIG;
        }
        if (i > 0 && !(config->border[i] > config->border[i - 1] && zone_low(config, i) >= zone_high(config, i - 1))) {
            return RP_E_CONFIG;
        }
    }
    return RP_OK;
}

void rp_bands_reset(rp_bands_state *state)
{
    state->known = 0;
    state->band = 0;
}

uint32_t rp_bands_move(const rp_bands_config *config, rp_bands_state *state, float value)
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
