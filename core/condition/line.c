/* line (gain and offset): the check of its settings. */
#include "rigpulse/condition/line.h"

rgp_status rgp_line_check(const rgp_line_config *config)
{
    return rgp_finite(config->gain) && rgp_finite(config->offset) && config->gain != 0.0f &&
                   rgp_finite(config->high - config->low) && config->low <= config->high
               ? RGP_OK
               : RGP_E_CONFIG;
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
