/* Inside the engine: the actions of rules and of the steps of sequences. */
#ifndef RIGPULSE_ENGINE_ACT_H
#define RIGPULSE_ENGINE_ACT_H

#include "inside.h"

/* An action that drives nothing. */
void rp_engine_act_aside(rp_engine *e, uint32_t action);

/* An action of a sequence; false when its amount cannot be known. */
bool rp_engine_act(rp_engine *e, uint32_t action);

/* True for actions that need an amount. */
static inline bool takes_amount(const rp_image_action *action)
{
    return rp_action_drives(action->kind) || action->kind == RP_ACTION_PARAM;
}

#endif
