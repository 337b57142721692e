#include "rigpulse/condition/line.h"

rp_status rp_line_check(const rp_line_config *config)
{
    return rp_finite(config->gain) && rp_finite(config->offset) && config->gain != 0.0f &&
                   rp_finite(config->high - config->low) && config->low <= config->high
               ? RP_OK
               : RP_E_CONFIG;
}

rp_reading rp_line_within(const rp_line_config *config, rp_reading out)
{
    const float room = RP_LINE_BEYOND_BY * (config->high - config->low);
    const bool beyond = out.value < config->low - room || out.value > config->high + room;
    return (rp_reading){out.value, beyond && rp_usable(out.quality) ? (rp_quality)RP_OUT_OF_RANGE : out.quality};
}

rp_reading rp_line_whole(const rp_line_config *config, int32_t raw, rp_quality quality)
{
    const rp_reading out = rp_number(rp_nearest_sum(raw, config->gain, 1, config->offset), quality);
    return config->low < config->high ? rp_line_within(config, out) : out;
}
