/* condition: raw reading -> quantity. Each block is a stage of a chain: a reading goes in with its quality, and one
 * comes out that can be trusted no further. In the order in which a chain mostly has them:
 *
 *   despike       takes out single spikes, as the first of a chain
 *   divider       a resistance from the counts of a voltage divider
 *   thermistor    a temperature from that, by two laws
 *   echo          a distance from the time of flight of a sound
 *   table, line   a calibration by points, or by gain and offset
 *   power         a calibration by a power law
 *   zero, span    what they calibrate with they learn while they run
 *   unwrap, wrap  angles that go round
 *   motion        tilt from gravity, fused with a rate of turning
 *   accumulate    a rate into a sum
 *   slope         a quantity into its rate
 *   magnitude, root   the size without its sign, and the square root
 *   smooth, average   less noise, later
 *   envelope, rms     the size of a swing
 *   highest, lowest   the extreme reading of a moving window
 *   take, hold    readings that count only while, or for how long they stand in for bad ones
 *   clamp, deadband   limits, and a band around 0 that is left out
 *   supervision   what makes a reading bad: its pace, its range, its jumps */
#ifndef RIGPULSE_CONDITION_H
#define RIGPULSE_CONDITION_H

#include "rigpulse/condition/accumulate.h"
#include "rigpulse/condition/average.h"
#include "rigpulse/condition/clamp.h"
#include "rigpulse/condition/deadband.h"
#include "rigpulse/condition/despike.h"
#include "rigpulse/condition/divider.h"
#include "rigpulse/condition/echo.h"
#include "rigpulse/condition/envelope.h"
#include "rigpulse/condition/highest.h"
#include "rigpulse/condition/hold.h"
#include "rigpulse/condition/line.h"
#include "rigpulse/condition/lowest.h"
#include "rigpulse/condition/magnitude.h"
#include "rigpulse/condition/motion.h"
#include "rigpulse/condition/power.h"
#include "rigpulse/condition/rms.h"
#include "rigpulse/condition/root.h"
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
