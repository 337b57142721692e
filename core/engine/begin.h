/* Inside the engine: how its arrays begin where that is not all 0 (memory.def), and what is due in every tick. */
#ifndef RIGPULSE_ENGINE_BEGIN_H
#define RIGPULSE_ENGINE_BEGIN_H

#include "inside.h"

void rp_begin_head(rp_engine *e);
void rp_begin_actuators(rp_engine *e);
void rp_begin_watches(rp_engine *e);
void rp_begin_qualities(rp_engine *e);
void rp_begin_newness(rp_engine *e);
void rp_begin_live(rp_engine *e);
void rp_begin_states(rp_engine *e);

/* head.always, as the image and the bound make it. */
void rp_engine_arrange(rp_engine *e);

#endif
