/* limit (travel limit): keeps what is asked within the actuator's travel. */
#ifndef RIGPULSE_DRIVE_LIMIT_H
#define RIGPULSE_DRIVE_LIMIT_H

#include "rigpulse/linkage.h"

RGP_DECLARATIONS_BEGIN

/* The value that is asked, but not below `low` and not above `high`; low is not above high. All three in the actuator's
 * unit. NaN comes through as it is.
 *
 * Its face is that of a plain function: it remembers nothing, and its settings are the actuator's, which the caller
 * has.
 *
 * Time: constant. Memory: none. Threads: any. */
static inline float rgp_limit(float asked, float low, float high);

RGP_DECLARATIONS_END

#include "rigpulse/inside/drive/limit.h"

#endif
