/* Inside the engine: how its arrays begin where that is not all 0 (memory.def), and what is due in every tick. */
#ifndef RIGPULSE_ENGINE_BEGIN_H
#define RIGPULSE_ENGINE_BEGIN_H

#include "inside.h"

void rgp__begin_head(rgp_engine *e);
void rgp__begin_actuators(rgp_engine *e);
void rgp__begin_watches(rgp_engine *e);
void rgp__begin_qualities(rgp_engine *e);
void rgp__begin_unsteady(rgp_engine *e);
void rgp__begin_newness(rgp_engine *e);
void rgp__begin_live(rgp_engine *e);
void rgp__begin_states(rgp_engine *e);

/* head.always, as the image and the bound make it. */
void rgp__engine_arrange(rgp_engine *e);

#endif
