/* Parameters: those that rules have asked for count from the next tick on. */
#include "params.h"

#include "program.h"

/* Every loop has to look again: the change may be of a setting of its own. */
static void retune_loops(const rgp_engine *e)
{
    for (uint32_t i = 0; i < COUNT(e, LOOPS); i++) {
        link_of(e, &image_LOOPS(e)[i])->news |= RGP_NEWS_RETUNED;
    }
}

/* The value is put into its slot only behind the settings that it sets, so the slot never shows one that they refuse.
 */
bool rgp__engine_put_param(rgp_engine *e, uint16_t param, float value)
{
    const bool sound = e->program->set(e, param, value);
    retune_loops(e);
    if (sound) {
        part_value(e)[param] = value;
    }
    return sound;
}

/* One event for each change that counts, with who has made it. */
static rgp_status set_param(rgp_engine *e, uint16_t param, float value, bool by_rule)
{
    if (param >= COUNT(e, PARAMS)) {
        return RGP_E_INDEX;
    }
    const rgp_image_param *p = &image_PARAMS(e)[param];
    if (!(value >= p->low && value <= p->high)) {
        return RGP_E_RANGE;
    }
    if (!rgp__engine_put_param(e, param, value)) {
        return RGP_E_CONFIG;
    }
    raise_event(e, RGP_EVENT_PARAM, by_rule, param, value);
    return RGP_OK;
}

rgp_status rgp_engine_set(rgp_engine *e, uint16_t param, float value)
{
    return set_param(e, param, value, false);
}

/* First in the tick, so that everything in it goes by one value. Of several requests in one tick the last stands. */
void rgp__phase_params(rgp_engine *e)
{
    rgp__param_state *is = part_param(e);
    part_head(e)->due &= ~(uint32_t)RGP__DUE_PARAMS;
    for (uint32_t i = 0; i < COUNT(e, PARAMS); i++) {
        if (is[i].asked) {
            is[i].asked = 0;
            set_param(e, (uint16_t)i, is[i].next, true);
        }
    }
}
