/* despike, by four: windows that have no rising order, and are full. */
#ifndef RIGPULSE_LANES_DESPIKE_H
#define RIGPULSE_LANES_DESPIKE_H

#include "lanes.h"
#include "rigpulse/condition/despike.h"
#include "rigpulse/inside/settings.h"

RGP_DECLARATIONS_BEGIN

/* Of a window of three the last two rows are not there. */
typedef struct rgp_despike_lanes {
    struct {
        uint8_t filled, next, missed, reserved;
    } is[RGP_LANES];
    float kept[RGP_DESPIKE_SMALL][RGP_LANES];
} rgp_despike_lanes;

_Static_assert(true RGP_LANES_MEET(despike, , float, kept), "despike by lanes");

typedef struct rgp_despike_lanes_set {
    uint32_t window[RGP_LANES]; /* all the same: their states are as long */
} rgp_despike_lanes_set;

_Static_assert(true rgp_despike_settings(RGP_LANES_SET, despike, ), "settings of despike by lanes");

/* Behind a step one by one: turns the four rings so that each begins with its oldest reading, unless one is not full,
 * or misses readings. */
void rgp_despike_lanes_align(const void *set, void *group);

/* True when all four are full and go on at the same place. */
static inline bool rgp__despike_lanes_agree(const rgp_despike_lanes *s, uint32_t window)
{
    uint32_t is[RGP_LANES];
    memcpy(is, s->is, sizeof is);
    return ((is[0] ^ is[1]) | (is[0] ^ is[2]) | (is[0] ^ is[3])) == 0 && s->is[0].filled == window &&
           s->is[0].missed == 0;
}

static inline void rgp__despike_lanes_go_on(rgp_despike_lanes *s, uint32_t window)
{
    uint32_t is[RGP_LANES];
    s->is[0].next = (uint8_t)(s->is[0].next + 1u == window ? 0u : s->is[0].next + 1u);
    memcpy(is, s->is, sizeof *is);
    is[1] = is[2] = is[3] = is[0];
    memcpy(s->is, is, sizeof is);
}

static inline bool rgp_despike_lanes_step(const rgp_despike_lanes_set *set, rgp_despike_lanes *s, const float *in,
                                          float *out, float dt)
{
    const uint32_t window = set->window[0];
    uint32_t other[RGP_LANES];
    (void)dt;
    for (size_t k = 0; k < RGP_LANES; k++) {
        other[k] = (uint32_t)(in[k] != in[k]); /* nothing that is no number */
    }
    if (rgp_lanes_any(other) || !rgp__despike_lanes_agree(s, window)) {
        return false;
    }
    memcpy(s->kept[s->is[0].next], in, RGP_LANES * sizeof *in);
    rgp__despike_lanes_go_on(s, window);
    if (window == RGP_DESPIKE_SMALL) {
        for (size_t k = 0; k < RGP_LANES; k++) {
            out[k] = rgp__median_of_5(s->kept[0][k], s->kept[1][k], s->kept[2][k], s->kept[3][k], s->kept[4][k]);
        }
    } else {
        for (size_t k = 0; k < RGP_LANES; k++) {
            out[k] = rgp__median_of_3(s->kept[0][k], s->kept[1][k], s->kept[2][k]);
        }
    }
    return true;
}

RGP_DECLARATIONS_END

#endif
