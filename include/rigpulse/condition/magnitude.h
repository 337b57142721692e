/* magnitude (absolute value): the size of a quantity without its sign. Of a point on a temperature's scale it makes no
 * sense. */
#ifndef RIGPULSE_CONDITION_MAGNITUDE_H
#define RIGPULSE_CONDITION_MAGNITUDE_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_magnitude_config {
    uint32_t reserved; /* 0 */
} rgp_magnitude_config;

/* RGP_E_CONFIG unless the reserved field is 0. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_magnitude_check(const rgp_magnitude_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_magnitude_fault(const rgp_magnitude_config *config);

/* |in|, with its quality. Of -0 it is 0.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_magnitude_step(const rgp_magnitude_config *config, rgp_reading in);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/magnitude.h"

#endif
