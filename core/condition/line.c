/* line (gain and offset): the check of its settings. */
#include "rigpulse/condition/line.h"
#include "rigpulse/inside/settings.h"

const char *rgp_line_fault(const rgp_line_config *c)
{
    const char *fault = RGP_FAULT_OF(line);
    return fault ? fault : rgp_finite(c->high - c->low) && c->low <= c->high ? NULL : RGP_WORDS("high: not below low");
}

rgp_status rgp_line_check(const rgp_line_config *config)
{
    return rgp_line_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

rgp_reading rgp_line_within(const rgp_line_config *config, rgp_reading out)
{
    const float room = RGP_LINE_BEYOND_BY * (config->high - config->low);
    const bool beyond = out.value < config->low - room || out.value > config->high + room;
    return (rgp_reading){out.value, beyond && rgp_usable(out.quality) ? (rgp_quality)RGP_OUT_OF_RANGE : out.quality};
}

rgp_reading rgp_line_whole(const rgp_line_config *config, int32_t raw, rgp_quality quality)
{
    const rgp_reading out = rgp_number(rgp_nearest_sum(raw, config->gain, 1, config->offset), quality);
    return config->low < config->high ? rgp_line_within(config, out) : out;
}
