#include "rigpulse/condition/table.h"

#include "rigpulse/numeric.h"

rp_status rp_table_check(const rp_table_config *config)
{
    if (config->count < 2 || config->count > RP_TABLE_POINTS_MAX || config->extended > 1) {
        return RP_E_CONFIG;
    }
    for (uint32_t i = 0; i < config->count; i++) {
        const rp_table_point p = config->point[i];
        if (!rp_finite(p.in) || !rp_finite(p.out) || (i > 0 && !(p.in > config->point[i - 1].in))) {
            return RP_E_CONFIG;
        }
    }
    return RP_OK;
}
