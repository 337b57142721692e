/* table, by four: as many points each, clamped beyond them. */
#ifndef RIGPULSE_LANES_TABLE_H
#define RIGPULSE_LANES_TABLE_H

#include "lanes.h"
#include "rigpulse/condition/table.h"
#include "rigpulse/inside/settings.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_table_lanes_set {
    uint32_t count[RGP_LANES], beyond[RGP_LANES];
    struct {
        float in[RGP_LANES], out[RGP_LANES];
    } point[RGP_TABLE_POINTS_MAX];
} rgp_table_lanes_set;

_Static_assert(RGP_TABLE_CLAMPED == 0, "four clamped tables are 0");
_Static_assert(true rgp_table_settings(RGP_LANES_SET, table, ), "settings of table by lanes");

/* Every point is looked at: the line that begins at the last one passed counts. */
static inline bool rgp_table_lanes_step(const rgp_table_lanes_set *set, const float *in, float *out)
{
    const uint32_t last = set->count[0] - 1u; /* of all four: their settings are as long */
    float from_in[RGP_LANES], from_out[RGP_LANES], to_in[RGP_LANES], to_out[RGP_LANES];
    if (rgp_lanes_any(set->beyond)) {
        return false;
    }
    memcpy(from_in, set->point[0].in, sizeof from_in);
    memcpy(from_out, set->point[0].out, sizeof from_out);
    memcpy(to_in, set->point[1].in, sizeof to_in);
    memcpy(to_out, set->point[1].out, sizeof to_out);
    for (uint32_t i = 1; i < last; i++) {
        for (size_t k = 0; k < RGP_LANES; k++) {
            const bool passed = in[k] >= set->point[i].in[k];
            from_in[k] = rgp_lanes_pick(passed, set->point[i].in[k], from_in[k]);
            from_out[k] = rgp_lanes_pick(passed, set->point[i].out[k], from_out[k]);
            to_in[k] = rgp_lanes_pick(passed, set->point[i + 1u].in[k], to_in[k]);
            to_out[k] = rgp_lanes_pick(passed, set->point[i + 1u].out[k], to_out[k]);
        }
    }
    for (size_t k = 0; k < RGP_LANES; k++) {
        const float between = rgp__table_between(from_in[k], from_out[k], to_in[k], to_out[k], in[k]);
        const float within = rgp_lanes_pick(in[k] > set->point[0].in[k], between, set->point[0].out[k]);
        out[k] = rgp_lanes_pick(in[k] >= set->point[last].in[k], set->point[last].out[k], within);
    }
    return true;
}

RGP_DECLARATIONS_END

#endif
