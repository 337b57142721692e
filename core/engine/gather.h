/* Inside the engine: the changes of timed switches, from tick to tick. */
#ifndef RIGPULSE_ENGINE_GATHER_H
#define RIGPULSE_ENGINE_GATHER_H

#include "rigpulse/engine.h"

/* The place of a timed sensor among them. */
static inline uint32_t rp_engine_timed(const rp_engine *e, uint32_t sensor)
{
    uint32_t k = 0;
    for (uint32_t i = 0; i < sensor; i++) {
        k += e->sensor[i].timed;
    }
    return k;
}

/* Before a tick computes: none is later than it; where the port tells none they are found in the readings. They are
 * told. */
void rp_engine_gather(rp_engine *e, float dt);

/* When it has: they are done with. */
void rp_engine_ungather(rp_engine *e);

#endif
