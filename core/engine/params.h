/* Inside the engine: parameters, and the links of the loops that hang on them. */
#ifndef RIGPULSE_ENGINE_PARAMS_H
#define RIGPULSE_ENGINE_PARAMS_H

#include "inside.h"
#include "rigpulse/regulate/loops.h"

/* The state of a loop's operation begins with its link. */
static inline rp_loop_link *link_of(const rp_engine *e, const rp_image_loop *loop)
{
    return (void *)(part_states(e) + loop->state);
}

/* Gives a parameter its value, of which nobody is told; false when a block would become impossible, and nothing has
 * changed. */
bool rp_engine_put_param(rp_engine *e, uint16_t param, float value);

#endif
