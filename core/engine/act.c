/* Actions of rules and sequences: sets, timed claims, parameters, modes, cues. */
#include "act.h"

#include "claims.h"
#include "program.h"

/* It counts from the next tick on. */
static void ask_param(rgp_engine *e, uint16_t param, float value)
{
    const rgp_image_param *p = &image_PARAMS(e)[param];
    part_param(e)[param] = (rgp__param_state){.next = rgp_limit(value, p->low, p->high), .asked = 1};
    make_due(e, RGP__DUE_PARAMS);
}

/* A mark may show a value, as far as that can be trusted: the reason is its quality. */
static void raise_mark(rgp_engine *e, uint32_t index)
{
    const uint16_t ref = image_ACTIONS(e)[index].value;
    const rgp_reading shown = ref == RGP_REF_NONE ? rgp_good(0.0f) : read_ref(e, ref);
    raise_event(e, RGP_EVENT_MARK, shown.quality, index, shown.value);
}

/* Sequences take up what is asked of them in the order in which it was asked; the memory has room for all that one tick
 * can ask. */
static void request(rgp_engine *e, const rgp_image_action *action)
{
    rgp__engine_head *const head = part_head(e);
    part_request(e)[head->requests++] = (rgp__request){.sequence = action->claim,
                                                       .begins = action->kind == RGP_ACTION_BEGIN,
                                                       .anew = read_ref(e, action->value).value != 0.0f};
}

/* All actions that claim no actuator. A mode or a cue is written into the next states, which the next tick shows: so
 * the order of rules within a tick does not matter for who sees it. */
void rgp__engine_act_with(rgp_engine *e, uint32_t index)
{
    const rgp_image_action *action = &image_ACTIONS(e)[index];
    switch (action->kind) {
    case RGP_ACTION_MARK:
        raise_mark(e, index);
        break;
    case RGP_ACTION_PARAM:
        ask_param(e, action->claim, read_ref(e, action->value).value);
        break;
    case RGP_ACTION_RELEARN:
        e->program->relearn(e, action->value);
        break;
    case RGP_ACTION_BEGIN:
    case RGP_ACTION_FINISH:
        request(e, action);
        break;
    default:
        part_state_next(e)[action->claim] = read_ref(e, action->value).value;
        make_due(e, RGP__DUE_STATES);
    }
}

/* An amount that cannot be trusted does nothing at all, rather than half of it. */
bool rgp__engine_act(rgp_engine *e, uint32_t index)
{
    const rgp_image_action *action = &image_ACTIONS(e)[index];
    if (takes_amount(action) && !rgp_usable(read_ref(e, action->value).quality)) {
        return false;
    }
    if (rgp_action_drives(action->kind)) {
        rgp__engine_claim(e, RGP_REF_NONE, action->claim, rgp__engine_amount(e, action), UINT64_MAX);
    } else {
        rgp__engine_act_with(e, index);
    }
    return true;
}
