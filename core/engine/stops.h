/* Inside the engine: everything to rest, and on again. */
#ifndef RIGPULSE_ENGINE_STOPS_H
#define RIGPULSE_ENGINE_STOPS_H

#include "inside.h"

/* Claims and running actions are forgotten. */
void rgp__engine_forget_actions(rgp_engine *e);

/* `stop`: the one that did it, or RGP_REF_NONE: by hand. */
void rgp__engine_stop_by(rgp_engine *e, uint16_t stop);
void rgp__engine_resume_by(rgp_engine *e, uint16_t stop);

#endif
