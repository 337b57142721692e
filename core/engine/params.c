/* Parameters: those that rules have asked for count from the next tick on. */
#include "params.h"

#include "program.h"

/* Every loop has to look again: the change may be of a setting of its own. */
static void retune_loops(const rp_engine *e)
{
    for (uint32_t i = 0; i < COUNT(e, LOOPS); i++) {
        link_of(e, &image_LOOPS(e)[i])->news |= RP_NEWS_RETUNED;
    }
}

bool rp_engine_put_param(rp_engine *e, uint16_t param, float value)
{
    const bool sound = e->program->set(e, param, value);
    retune_loops(e);
    if (sound) {
        part_value(e)[param] = value;
    }
    return sound;
}

static rp_status set(rp_engine *e, uint16_t param, float value, bool by_rule)
{
    if (param >= COUNT(e, PARAMS)) {
        return RP_E_INDEX;
    }
    const rp_image_param *p = &image_PARAMS(e)[param];
    if (!(value >= p->low && value <= p->high)) {
        return RP_E_RANGE;
    }
    if (!rp_engine_put_param(e, param, value)) {
        return RP_E_CONFIG;
    }
    tell(e, RP_EVENT_PARAM, by_rule, param, value);
    return RP_OK;
}

rp_status rp_engine_set(rp_engine *e, uint16_t param, float value)
{
    return set(e, param, value, false);
}

void rp_phase_params(rp_engine *e)
{
    rp_param_state *is = part_param(e);
    part_head(e)->due &= ~(uint32_t)RP_DUE_PARAMS;
    for (uint32_t i = 0; i < COUNT(e, PARAMS); i++) {
        if (is[i].asked) {
            is[i].asked = 0;
            set(e, (uint16_t)i, is[i].next, true);
        }
    }
}
