/* Inside the engine: parameters, and the links of the loops that hang on them. */
#ifndef RIGPULSE_ENGINE_PARAMS_H
#define RIGPULSE_ENGINE_PARAMS_H

#include "inside.h"
#include "rigpulse/regulate/loops.h"

/* The state of a loop's operation begins with its link. */
static inline rgp_loop_link *link_of(const rgp_engine *e, const rgp_image_loop *loop)
{
    return (void *)(part_states(e) + loop->state);
}

/* Gives a parameter its value, of which nobody is told; false when a block would become impossible, and nothing has
 * changed. */
bool rgp__engine_put_param(rgp_engine *e, uint16_t param, float value);

#endif
