/* table (piecewise linear interpolation): the check of its settings. */
#include "rigpulse/condition/table.h"

#include "rigpulse/inside/settings.h"
#include "rigpulse/numeric.h"

const char *rgp_table_fault(const rgp_table_config *c)
{
    const char *fault = RGP_FAULT_OF(table);
    const rgp_table_point *p = c->point;
    for (uint32_t i = 0; !fault && i < c->count; i++) {
        if (!rgp_finite(p[i].in) || !rgp_finite(p[i].out)) {
            return RGP_WORDS("point: numbers");
        }
        if (i > 0 && !(p[i].in > p[i - 1].in && rgp_finite(p[i].in - p[i - 1].in) &&
                       rgp_finite((p[i].out - p[i - 1].out) / (p[i].in - p[i - 1].in)))) {
            return RGP_WORDS("point: rising in, and with a finite slope from one to the next");
        }
    }
    return fault;
}

rgp_status rgp_table_check(const rgp_table_config *config)
{
    return rgp_table_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

/* The outermost line goes on, from the point that it passes, so that the point is met exactly. */
static rgp_reading extended(const rgp_table_config *config, rgp_reading in, bool below)
{
    const rgp_table_point *const p = config->point + (below ? 1 : config->count - 1);
    const rgp_table_point *const from = below ? p - 1 : p;
    const float slope = (p->out - p[-1].out) / (p->in - p[-1].in);
    return rgp_number(from->out + (in.value - from->in) * slope, in.quality);
}

rgp_reading rgp_table_beyond(const rgp_table_config *config, rgp_reading in)
{
    const rgp_table_point *const first = config->point, *const last = first + config->count - 1;
    const bool below = !(in.value >= last->in);
    if (config->beyond == RGP_TABLE_EXTENDED) {
        return extended(config, in, below);
    }
    const float room = RGP_TABLE_STRICT_BY * (last->in - first->in);
    const bool far = below ? in.value < first->in - room : in.value > last->in + room;
    return (rgp_reading){below ? first->out : last->out,
                         far && rgp_usable(in.quality) ? (rgp_quality)RGP_OUT_OF_RANGE : in.quality};
}
