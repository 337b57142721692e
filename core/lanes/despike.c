/* Rings that have come apart by a reading that one of them missed. */
#include "despike.h"

static void turn(rgp_despike_lanes *s, uint32_t lane, uint32_t window)
{
    float ring[RGP_DESPIKE_SMALL];
    for (uint32_t i = 0; i < window; i++) {
        ring[i] = s->kept[(s->is[lane].next + i) % window][lane];
    }
    for (uint32_t i = 0; i < window; i++) {
        s->kept[i][lane] = ring[i];
    }
    s->is[lane].next = 0;
}

void rgp_despike_lanes_align(const void *set, void *group)
{
    const uint32_t window = ((const rgp_despike_lanes_set *)set)->window[0];
    rgp_despike_lanes *const s = group;
    bool full = true;
    for (uint32_t lane = 0; lane < RGP_LANES; lane++) {
        full &= s->is[lane].filled == window && s->is[lane].missed == 0;
    }
    for (uint32_t lane = 0; full && lane < RGP_LANES; lane++) {
        turn(s, lane, window);
    }
}
