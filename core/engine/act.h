/* Inside the engine: the actions of rules and of the steps of sequences. */
#ifndef RIGPULSE_ENGINE_ACT_H
#define RIGPULSE_ENGINE_ACT_H

#include "inside.h"

/* An action that drives nothing. */
void rgp__engine_act_with(rgp_engine *e, uint32_t action);

/* An action of a sequence; false when its amount cannot be known. */
bool rgp__engine_act(rgp_engine *e, uint32_t action);

/* True for actions that need an amount. */
static inline bool takes_amount(const rgp_image_action *action)
{
    return rgp_action_drives(action->kind) || action->kind == RGP_ACTION_PARAM;
}

#endif
