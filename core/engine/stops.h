/* Inside the engine: everything to rest, and on again. */
#ifndef RIGPULSE_ENGINE_STOPS_H
#define RIGPULSE_ENGINE_STOPS_H

#include "inside.h"

/* Claims and running actions are forgotten. */
void rp_engine_forget_actions(rp_engine *e);

/* `stop`: the one that did it, or RP_REF_NONE: by hand. */
void rp_engine_stop_by(rp_engine *e, uint16_t stop);
void rp_engine_resume_by(rp_engine *e, uint16_t stop);

#endif
