/* wrap (modulo one turn): folds an angle that goes on into one turn, from `low` up to, but not including, `low + turn`.
 */
#ifndef RIGPULSE_CONDITION_WRAP_H
#define RIGPULSE_CONDITION_WRAP_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_wrap_config {
    float turn; /* input unit; above 0 */
    float low;  /* input unit */
} rgp_wrap_config;

/* RGP_E_CONFIG when a number is not finite or the turn is not above 0. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_wrap_check(const rgp_wrap_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_wrap_fault(const rgp_wrap_config *config);

/* The result, and how far it can be trusted: no further than what goes in.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_wrap_step(const rgp_wrap_config *config, rgp_reading in);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/wrap.h"

#endif
