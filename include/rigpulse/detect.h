/* detect: quantity -> event. */
#ifndef RIGPULSE_DETECT_H
#define RIGPULSE_DETECT_H

#include "rigpulse/detect/bands.h"
#include "rigpulse/detect/compare.h"
#include "rigpulse/detect/edge.h"
#include "rigpulse/detect/equals.h"
#include "rigpulse/detect/lasts.h"

#endif
