/* An event travels as a number: 0 for none, else 1 plus how many seconds before the step it happened. So it stays a
 * truth for whoever only asks whether it happened, and keeps its moment between two steps for whoever measures, however
 * long its steps are.
 */
#ifndef RIGPULSE_DETECT_MOMENT_H
#define RIGPULSE_DETECT_MOMENT_H

#include "rigpulse/linkage.h"

RGP_DECLARATIONS_BEGIN

/* `age` in seconds before the step; below 0 counts as 0. */
static inline float rgp_moment(float age)
{
    return 1.0f + (age > 0.0f ? age : 0.0f);
}

/* Seconds before the step. */
static inline float rgp_moment_age(float moment)
{
    return moment > 1.0f ? moment - 1.0f : 0.0f;
}

RGP_DECLARATIONS_END

#endif
