/* equals: whether a named value (a band, a switch) is the one asked for: 1 or 0. */
#ifndef RIGPULSE_DETECT_EQUALS_H
#define RIGPULSE_DETECT_EQUALS_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

typedef struct rp_equals_config {
    float number; /* of the name: a band counted from 0, or 0 and 1 for a switch */
} rp_equals_config;

/* RP_E_CONFIG when the number is not finite. */
static inline rp_status rp_equals_check(const rp_equals_config *config)
{
    return rp_finite(config->number) ? RP_OK : RP_E_CONFIG;
}

static inline rp_reading rp_equals_step(const rp_equals_config *config, rp_reading in)
{
    return (rp_reading){in.value == config->number ? 1.0f : 0.0f, in.quality};
}

/* known: whether a value can be used at all. Its answer is always good. */
typedef struct rp_known_config {
    uint32_t reserved; /* 0 */
} rp_known_config;

/* RP_E_CONFIG unless the reserved field is 0. */
static inline rp_status rp_known_check(const rp_known_config *config)
{
    return config->reserved == 0 ? RP_OK : RP_E_CONFIG;
}

static inline rp_reading rp_known_step(const rp_known_config *config, rp_reading in)
{
    (void)config;
    return rp_good(rp_usable(in.quality) ? 1.0f : 0.0f);
}

#endif
