/* regulate: error -> command. Controllers, and what every loop has around them.
 *
 *   pid        proportional, integral and derivative term
 *   onoff      fully on or off, with a margin
 *   nudge      a step at each pace, without gains
 *   predict    what a slow process will come to, so that the controller does not push on while it waits
 *   loop       when a loop may drive: engaging, holding, cutting out; the ramp of its setpoint
 *   loops      each controller with that around it, as the engine runs them
 *
 * A controller alone is enough for a loop of one's own (examples/regulate.c). */
#ifndef RIGPULSE_REGULATE_H
#define RIGPULSE_REGULATE_H

#include "rigpulse/regulate/loop.h"
#include "rigpulse/regulate/loops.h"
#include "rigpulse/regulate/nudge.h"
#include "rigpulse/regulate/onoff.h"
#include "rigpulse/regulate/pid.h"
#include "rigpulse/regulate/predict.h"

#endif
