/* The version of the library: a part for changes that break what was promised, one for what is new, one for repairs
 * (docs/library.md, "What is promised"). */
#ifndef RIGPULSE_VERSION_H
#define RIGPULSE_VERSION_H

#include "rigpulse/linkage.h"

#include <stdint.h>

RGP_DECLARATIONS_BEGIN

#define RGP_VERSION_MAJOR 0 /* a change of it may break what was written for the one before */
#define RGP_VERSION_MINOR 1 /* adds; while MAJOR is 0 it may break, too */
#define RGP_VERSION_PATCH 0 /* mends */

/* 0x00MMmmpp, to be compared. */
#define RGP_VERSION       ((uint32_t)RGP_VERSION_MAJOR << 16 | (uint32_t)RGP_VERSION_MINOR << 8 | RGP_VERSION_PATCH)

/* The arithmetic of the engine: libraries of one number give the same bits for the same image and the same inputs, on
 * every machine. A recording names it, and a replay says so when it is another one. */
#define RGP_BITS          1u

/* The same of the library that is linked: a program that was compiled against another one can tell. No state; callable
 * from anywhere. */
uint32_t rgp_version(void);

/* "0.1.0". A constant. */
const char *rgp_version_text(void);

RGP_DECLARATIONS_END

#endif
