#include "rigpulse/condition/table.h"

#include "rigpulse/numeric.h"

rp_status rp_table_check(const rp_table_config *config)
{
    if (config->count < 2 || config->count > RP_TABLE_POINTS_MAX || config->extended > 1) {
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

float rp_table_extend(const rp_table_config *config, float x)
{
    const rp_table_point *p = config->point + 1;
    const rp_table_point *const last = config->point + config->count - 1;
    while (p < last && x >= p->in) {
        p++;
    }
    return rp_table_between(p, x);
}
