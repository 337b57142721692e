/* An event travels as a number: 0 for none, else 1 plus how many seconds before the step it happened. So it stays a
 * truth for whoever only asks whether it happened, and keeps its moment between two steps for whoever measures, however
 * long its steps are.
 */
#ifndef RIGPULSE_DETECT_MOMENT_H
#define RIGPULSE_DETECT_MOMENT_H

#include "rigpulse/linkage.h"

RGP_DECLARATIONS_BEGIN

/* The number of an event that happened `age` seconds before the step; below 0 counts as 0. Exact to 6e-8 of the sum: an
 * age of 1 s is known to 0.1 us, one of 1000 s to 0.1 ms.
 *
 * Time: constant. Memory: none. Threads: any. */
static inline float rgp_moment(float age);

/* And back: seconds before the step; 0 for a truth that is no event, and for none.
 *
 * Time: constant. Memory: none. Threads: any. */
static inline float rgp_moment_age(float moment);

RGP_DECLARATIONS_END

#include "rigpulse/inside/detect/moment.h"

#endif
