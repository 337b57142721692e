/* detect: quantity -> event, or truth. A truth is a reading of 1 or 0, an event a moment (moment.h); neither is trusted
 * further than what it is made of.
 *
 *   compare, bands    a limit, or several, with a margin against chatter
 *   equals            a band or a switch is the one asked for; a value is known
 *   edge, changed     a truth, or a name, has become another one
 *   lasts             a truth has been one for long enough
 *   moved, still      away from where it was, or within a band of it
 *   turn              the turning points of a swing, its reach and its decay
 *   scan              the best place of a sweep
 *   clockwork         events of time and of other events
 *   edges, gauge      changes with their own moments: widths, intervals, rates, counts */
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
