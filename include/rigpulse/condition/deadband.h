/* deadband (dead zone): 0 while the input is within +/- width, and beyond it as far from 0 as the input is from the
 * edge, so that there is no jump at the edge. For a joystick or a balance that never comes back to exactly 0; of a
 * point on a temperature's scale it makes no sense. */
#ifndef RIGPULSE_CONDITION_DEADBAND_H
#define RIGPULSE_CONDITION_DEADBAND_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_deadband_config {
    float width; /* input unit; 0 or more */
} rgp_deadband_config;

/* RGP_E_CONFIG when the width is not finite or negative. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_deadband_check(const rgp_deadband_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_deadband_fault(const rgp_deadband_config *config);

/* The result, and how far it can be trusted: no further than what goes in.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_deadband_step(const rgp_deadband_config *config, rgp_reading in);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/deadband.h"

#endif
