/* Inside the engine: sensors' faults. */
#ifndef RIGPULSE_ENGINE_WATCH_H
#define RIGPULSE_ENGINE_WATCH_H

#include "inside.h"

/* Whatever needs a sensor may act again. */
void rp_engine_forget_faults(rp_engine *e);

#endif
