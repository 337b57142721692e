/* condition: raw reading -> quantity. */
#ifndef RIGPULSE_CONDITION_H
#define RIGPULSE_CONDITION_H

#include "rigpulse/condition/accumulate.h"
#include "rigpulse/condition/average.h"
#include "rigpulse/condition/clamp.h"
#include "rigpulse/condition/deadband.h"
#include "rigpulse/condition/despike.h"
#include "rigpulse/condition/divider.h"
#include "rigpulse/condition/echo.h"
#include "rigpulse/condition/hold.h"
#include "rigpulse/condition/line.h"
#include "rigpulse/condition/motion.h"
#include "rigpulse/condition/power.h"
#include "rigpulse/condition/slope.h"
#include "rigpulse/condition/smooth.h"
#include "rigpulse/condition/span.h"
#include "rigpulse/condition/table.h"
#include "rigpulse/condition/take.h"
#include "rigpulse/condition/thermistor.h"
#include "rigpulse/condition/unwrap.h"
#include "rigpulse/condition/supervision.h"
#include "rigpulse/condition/wrap.h"
#include "rigpulse/condition/zero.h"

#endif
