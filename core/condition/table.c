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

/* The outermost line goes on, from the point that it passes, so that the point is met exactly. */
static rp_reading extended(const rp_table_config *config, rp_reading in, bool below)
{
    const rp_table_point *const p = config->point + (below ? 1 : config->count - 1);
    const rp_table_point *const from = below ? p - 1 : p;
    const float slope = (p->out - p[-1].out) / (p->in - p[-1].in);
    return rp_number(from->out + (in.value - from->in) * slope, in.quality);
}

rp_reading rp_table_beyond(const rp_table_config *config, rp_reading in)
{
    const rp_table_point *const first = config->point, *const last = first + config->count - 1;
    const bool below = !(in.value >= last->in);
    if (config->beyond == RP_TABLE_EXTENDED) {
        return extended(config, in, below);
    }
    const float room = RP_TABLE_STRICT_BY * (last->in - first->in);
    const bool far = below ? in.value < first->in - room : in.value > last->in + room;
    return (rp_reading){below ? first->out : last->out,
                        far && rp_usable(in.quality) ? (rp_quality)RP_OUT_OF_RANGE : in.quality};
}
