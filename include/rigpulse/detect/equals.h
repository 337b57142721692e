/* equals (equality of names): 1 while a named value (a band, a switch) is the one asked for, else 0. */
#ifndef RIGPULSE_DETECT_EQUALS_H
#define RIGPULSE_DETECT_EQUALS_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_equals_config {
    float number; /* of the name: a band counted from 0, or 0 and 1 for a switch */
} rgp_equals_config;

/* RGP_E_CONFIG when the number is not finite. */
static inline const char *rgp_equals_fault(const rgp_equals_config *c)
{
    return !(rgp_finite(c->number)) ? RGP_WORDS("number: a number") : NULL;
}

static inline rgp_status rgp_equals_check(const rgp_equals_config *config)
{
    return rgp_equals_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

static inline rgp_reading rgp_equals_step(const rgp_equals_config *config, rgp_reading in)
{
    return rgp_reading_of(in.value == config->number ? 1.0f : 0.0f, in.quality);
}

/* known: whether a value can be used at all. Its answer is always good. */
typedef struct rgp_known_config {
    uint32_t reserved; /* 0 */
} rgp_known_config;

/* RGP_E_CONFIG unless the reserved field is 0. */
static inline const char *rgp_known_fault(const rgp_known_config *c)
{
    return !(c->reserved == 0) ? RGP_WORDS("reserved: 0") : NULL;
}

static inline rgp_status rgp_known_check(const rgp_known_config *config)
{
    return rgp_known_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

static inline rgp_reading rgp_known_step(const rgp_known_config *config, rgp_reading in)
{
    (void)config;
    return rgp_good(rgp_usable(in.quality) ? 1.0f : 0.0f);
}

RGP_DECLARATIONS_END

#endif
