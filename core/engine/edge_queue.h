/* Inside the engine: the changes of timed switches, from tick to tick. */
#ifndef RIGPULSE_ENGINE_EDGE_QUEUE_H
#define RIGPULSE_ENGINE_EDGE_QUEUE_H

#include "inside.h"

/* Those of this tick are done with. */
void rgp__engine_forget_edges(rgp_engine *e);

#endif
