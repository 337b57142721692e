/* softly: a made-up stage, of which tests/additions/try makes a copy of the project that has it: what goes through is
 * divided by a number. */
#ifndef RIGPULSE_CONDITION_SOFTLY_H
#define RIGPULSE_CONDITION_SOFTLY_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_softly_config {
    float by; /* 1 to 100 */
} rp_softly_config;

/* RP_E_CONFIG when the number is outside its range. */
rp_status rp_softly_check(const rp_softly_config *config);

static inline rp_reading rp_softly_step(const rp_softly_config *config, rp_reading in)
{
    return (rp_reading){in.value / config->by, in.quality};
}

#endif
