/* table, by four: as many points each, clamped beyond them. */
#ifndef RIGPULSE_LANES_TABLE_H
#define RIGPULSE_LANES_TABLE_H

#include "lanes.h"
#include "rigpulse/condition/table.h"

RGP_DECLARATIONS_BEGIN

/* Every point is looked at: the line that begins at the last one passed counts. */
static inline bool rgp_table_lanes_step(const void *config, size_t stride, const float *in, float *out)
{
    const uint32_t last = ((const rgp_table_config *)config)->count - 1u; /* of all four: their settings are as long */
    const uint32_t beyond[RGP_LANES] = RGP_LANES_SETTINGS(table, config, stride, beyond);
    if ((beyond[0] | beyond[1] | beyond[2] | beyond[3]) != RGP_TABLE_CLAMPED) {
        return false;
    }
    const float first_in[RGP_LANES] = RGP_LANES_SETTINGS(table, config, stride, point[0].in);
    const float first_out[RGP_LANES] = RGP_LANES_SETTINGS(table, config, stride, point[0].out);
    float here_in[RGP_LANES] = RGP_LANES_SETTINGS(table, config, stride, point[1].in);
    float here_out[RGP_LANES] = RGP_LANES_SETTINGS(table, config, stride, point[1].out);
    float from_in[RGP_LANES], from_out[RGP_LANES], to_in[RGP_LANES], to_out[RGP_LANES];
    memcpy(from_in, first_in, sizeof from_in);
    memcpy(from_out, first_out, sizeof from_out);
    memcpy(to_in, here_in, sizeof to_in);
    memcpy(to_out, here_out, sizeof to_out);
    for (uint32_t i = 2; i <= last; i++) {
        const float next_in[RGP_LANES] = RGP_LANES_SETTINGS(table, config, stride, point[i].in);
        const float next_out[RGP_LANES] = RGP_LANES_SETTINGS(table, config, stride, point[i].out);
        for (size_t k = 0; k < RGP_LANES; k++) {
            const bool passed = in[k] >= here_in[k];
            from_in[k] = rgp_lanes_pick(passed, here_in[k], from_in[k]);
            from_out[k] = rgp_lanes_pick(passed, here_out[k], from_out[k]);
            to_in[k] = rgp_lanes_pick(passed, next_in[k], to_in[k]);
            to_out[k] = rgp_lanes_pick(passed, next_out[k], to_out[k]);
            here_in[k] = next_in[k];
            here_out[k] = next_out[k];
        }
    }
    for (size_t k = 0; k < RGP_LANES; k++) {
        const float between = rgp__table_between(from_in[k], from_out[k], to_in[k], to_out[k], in[k]);
        const float within = rgp_lanes_pick(in[k] > first_in[k], between, first_out[k]);
        out[k] = rgp_lanes_pick(in[k] >= here_in[k], here_out[k], within);
    }
    return true;
}

RGP_DECLARATIONS_END

#endif
