/* softly: a made-up stage, of which tests/additions/try makes a copy of the project that has it: what goes through is
 * divided by a number. */
#ifndef RIGPULSE_CONDITION_SOFTLY_H
#define RIGPULSE_CONDITION_SOFTLY_H

#include "rigpulse/block.h"

typedef struct rgp_softly_config {
    float by; /* 1 to 100 */
} rgp_softly_config;

/* RGP_E_CONFIG when the number is outside its range. */
rgp_status rgp_softly_check(const rgp_softly_config *config);
const char *rgp_softly_fault(const rgp_softly_config *config);

rgp_reading rgp_softly_step(const rgp_softly_config *config, rgp_reading in);

#endif
