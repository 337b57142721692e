#include "act.h"

#include "claims.h"
#include "program.h"

/* It counts from the next tick on. */
static void ask_param(rp_engine *e, uint16_t param, float value)
{
    const rp_image_param *p = &image_PARAMS(e)[param];
    part_param(e)[param] = (rp_param_state){.next = rp_limit(value, p->low, p->high), .asked = 1};
    make_due(e, RP_DUE_PARAMS);
}

/* A mark may show a value, as far as that can be trusted: the reason is its quality. */
static void tell_mark(rp_engine *e, uint32_t index)
{
    const uint16_t ref = image_ACTIONS(e)[index].value;
    const rp_reading shown = ref == RP_REF_NONE ? rp_good(0.0f) : read_ref(e, ref);
    tell(e, RP_EVENT_MARK, shown.quality, index, shown.value);
}

/* Sequences take up what is asked of them in the order in which it was asked; the memory has room for all that one tick
 * can ask. */
static void request(rp_engine *e, const rp_image_action *action)
{
    rp_engine_head *const head = part_head(e);
    part_request(e)[head->requests++] = (rp_request){.sequence = action->claim,
                                                     .begins = action->kind == RP_ACTION_BEGIN,
                                                     .anew = read_ref(e, action->value).value != 0.0f};
}

void rp_engine_act_aside(rp_engine *e, uint32_t index)
{
    const rp_image_action *action = &image_ACTIONS(e)[index];
    switch (action->kind) {
    case RP_ACTION_MARK:
        tell_mark(e, index);
        break;
    case RP_ACTION_PARAM:
        ask_param(e, action->claim, read_ref(e, action->value).value);
        break;
    case RP_ACTION_RELEARN:
        e->program->relearn(e, action->value);
        break;
    case RP_ACTION_BEGIN:
    case RP_ACTION_FINISH:
        request(e, action);
        break;
    default:
        part_state_next(e)[action->claim] = read_ref(e, action->value).value;
        make_due(e, RP_DUE_STATES);
    }
}

bool rp_engine_act(rp_engine *e, uint32_t index)
{
    const rp_image_action *action = &image_ACTIONS(e)[index];
    if (takes_amount(action) && !rp_usable(read_ref(e, action->value).quality)) {
        return false;
    }
    if (rp_action_drives(action->kind)) {
        rp_engine_claim(e, RP_REF_NONE, action->claim, rp_engine_amount(e, action), UINT64_MAX);
    } else {
        rp_engine_act_aside(e, index);
    }
    return true;
}
