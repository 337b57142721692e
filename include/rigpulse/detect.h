/* detect: quantity -> event. */
#ifndef RIGPULSE_DETECT_H
#define RIGPULSE_DETECT_H

#include "rigpulse/detect/bands.h"
#include "rigpulse/detect/changed.h"
#include "rigpulse/detect/clockwork.h"
#include "rigpulse/detect/compare.h"
#include "rigpulse/detect/edge.h"
#include "rigpulse/detect/edges.h"
#include "rigpulse/detect/equals.h"
#include "rigpulse/detect/gauge.h"
#include "rigpulse/detect/lasts.h"
#include "rigpulse/detect/moment.h"
#include "rigpulse/detect/moved.h"
#include "rigpulse/detect/scan.h"
#include "rigpulse/detect/still.h"
#include "rigpulse/detect/turn.h"

#endif
