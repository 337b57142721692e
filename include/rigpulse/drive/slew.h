/* slew (rate limiter): a command that changes no faster than the mechanism may be asked to. */
#ifndef RIGPULSE_DRIVE_SLEW_H
#define RIGPULSE_DRIVE_SLEW_H

#include "rigpulse/linkage.h"

RGP_DECLARATIONS_BEGIN

/* `last`: what came out before; `most`: the greatest change in this step, above 0: the rate times the step's time. All
 * in the actuator's unit. Comes to what is asked exactly.
 *
 * Its face is that of a plain function: what it would have to remember is what was driven, which the caller knows
 * better: somebody else may have driven meanwhile.
 *
 * Time: constant. Memory: none. Threads: any. */
static inline float rgp_slew(float asked, float last, float most);

RGP_DECLARATIONS_END

#include "rigpulse/inside/drive/slew.h"

#endif
