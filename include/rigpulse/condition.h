/* condition: raw reading -> quantity. */
#ifndef RIGPULSE_CONDITION_H
#define RIGPULSE_CONDITION_H

#include "rigpulse/condition/despike.h"
#include "rigpulse/condition/scale.h"
#include "rigpulse/condition/smooth.h"
#include "rigpulse/condition/table.h"

#endif
