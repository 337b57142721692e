/* The inside of rigpulse/detect/equals.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DETECT_EQUALS_H
#define RIGPULSE_INSIDE_DETECT_EQUALS_H

#include "rigpulse/detect/equals.h"
#include "rigpulse/numeric.h"
#include "rigpulse/inside/settings.h"

RGP_DECLARATIONS_BEGIN

static inline const char *rgp_equals_fault(const rgp_equals_config *c)
{
    return RGP_FAULT_OF(equals);
}

static inline rgp_status rgp_equals_check(const rgp_equals_config *config)
{
    return rgp_equals_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

static inline rgp_reading rgp_equals_step(const rgp_equals_config *config, rgp_reading in)
{
    return rgp_reading_of(in.value == config->number ? 1.0f : 0.0f, in.quality);
}

static inline const char *rgp_known_fault(const rgp_known_config *c)
{
    return RGP_FAULT_OF(known);
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
