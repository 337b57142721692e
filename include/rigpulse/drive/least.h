/* least (dead-band compensation): the power that moves a mechanism at all. A motor or pump does nothing below some
 * power; a command that is not 0 is raised to it, so that whatever asks for a little gets a little and not nothing. */
#ifndef RIGPULSE_DRIVE_LEAST_H
#define RIGPULSE_DRIVE_LEAST_H

#include "rigpulse/linkage.h"

RGP_DECLARATIONS_BEGIN

/* `least`: 0 or more, in the command's unit; works on either side of 0. 0 stays 0, and what is farther from 0 than
 * `least` stays as it is.
 *
 * Time: constant. Memory: none. Threads: any. */
static inline float rgp_least(float asked, float least);

RGP_DECLARATIONS_END

#include "rigpulse/inside/drive/least.h"

#endif
