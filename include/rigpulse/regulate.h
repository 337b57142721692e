/* regulate: error -> command. */
#ifndef RIGPULSE_REGULATE_H
#define RIGPULSE_REGULATE_H

#include "rigpulse/regulate/loop.h"
#include "rigpulse/regulate/loops.h"
#include "rigpulse/regulate/nudge.h"
#include "rigpulse/regulate/onoff.h"
#include "rigpulse/regulate/pid.h"
#include "rigpulse/regulate/predict.h"

#endif
