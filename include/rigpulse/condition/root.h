/* root (square root): of an area the length of its side, of a power the size of what makes it; with two squares under
 * it the length of a vector. */
#ifndef RIGPULSE_CONDITION_ROOT_H
#define RIGPULSE_CONDITION_ROOT_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_root_config {
    uint32_t reserved; /* 0 */
} rgp_root_config;

/* RGP_E_CONFIG unless the reserved field is 0. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_root_check(const rgp_root_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_root_fault(const rgp_root_config *config);

/* The root of in, correctly rounded (IEEE 754), with its quality; of what is below 0 it is out of range, and 0.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_root_step(const rgp_root_config *config, rgp_reading in);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/root.h"

#endif
