/* Inside the engine: sensors' faults. */
#ifndef RIGPULSE_ENGINE_WATCH_H
#define RIGPULSE_ENGINE_WATCH_H

#include "inside.h"

/* Whatever needs a sensor may act again. */
void rgp__engine_forget_faults(rgp_engine *e);

#endif
