#include "rigpulse/condition/table.h"

#include "rigpulse/numeric.h"

rp_status rp_table_check(const rp_table_config *config)
{
    if (config->count < 2 || config->count > RP_TABLE_POINTS_MAX || config->beyond > RP_TABLE_STRICT) {
        return RP_E_CONFIG;
    }
    const rp_table_point *p = config->point;
    for (uint32_t i = 0; i < config->count; i++) {
        if (!rp_finite(p[i].in) || !rp_finite(p[i].out)) {
            return RP_E_CONFIG;
        }
        if (i > 0 && !(p[i].in > p[i - 1].in && rp_finite(p[i].in - p[i - 1].in) &&
                       rp_finite((p[i].out - p[i - 1].out) / (p[i].in - p[i - 1].in)))) {
            return RP_E_CONFIG;
        }
    }
    return RP_OK;
}

rp_reading rp_table_extend(const rp_table_config *config, rp_reading in)
{
    const rp_table_point *p = config->point + 1;
    const rp_table_point *const last = config->point + config->count - 1;
    while (p < last && in.value >= p->in) {
        p++;
    }
    /* through the last point, so that it is met exactly */
    const float back = in.value - p->in, slope = (p->out - p[-1].out) / (p->in - p[-1].in);
    return rp_number(p == last && back >= 0.0f ? p->out + back * slope : rp_table_between(p, in.value), in.quality);
}

rp_reading rp_table_beyond(const rp_table_config *config, rp_reading in)
{
    const rp_table_point *first = config->point, *last = first + config->count - 1;
    const float room = config->beyond == RP_TABLE_STRICT ? RP_TABLE_STRICT_BY * (last->in - first->in) : 0.0f;
    const bool below = in.value <= first->in;
    const bool far = below ? in.value < first->in - room : in.value > last->in + room;
    const bool refused = config->beyond == RP_TABLE_STRICT && far && rp_usable(in.quality);
    return (rp_reading){below ? first->out : last->out, refused ? (rp_quality)RP_OUT_OF_RANGE : in.quality};
}
