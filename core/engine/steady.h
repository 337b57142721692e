/* Inside the engine: what stays as it is while no sensor and no parameter changes, and is not computed then. An image
 * that has too little of that has no steady runs (lang/emit/steady.c). */
#ifndef RIGPULSE_ENGINE_STEADY_H
#define RIGPULSE_ENGINE_STEADY_H

#include "inside.h"

/* Holds sensors and parameters against those of the last tick, and keeps them for the next: head.unmoved. */
void rgp__engine_look(rgp_engine *e);

#endif
