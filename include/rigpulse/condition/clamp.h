/* clamp (saturation): keeps a quantity within two limits (the stage `limit`). What lies beyond one becomes that limit
 * and stays as good as it was: a reading that cannot be there is told by `strict` tables, by lines that say where they
 * are known, and by the range of a sensor, not here. */
#ifndef RIGPULSE_CONDITION_CLAMP_H
#define RIGPULSE_CONDITION_CLAMP_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_clamp_config {
    float low, high; /* input unit; low below high */
} rgp_clamp_config;

/* RGP_E_CONFIG when a number is not finite or low is not below high. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_clamp_check(const rgp_clamp_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_clamp_fault(const rgp_clamp_config *config);

/* The result, and how far it can be trusted: no further than what goes in.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_clamp_step(const rgp_clamp_config *config, rgp_reading in);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/clamp.h"

#endif
