#include "rigpulse/condition/softly.h"

#include "rigpulse/inside/settings.h"

const char *rgp_softly_fault(const rgp_softly_config *c)
{
    return RGP_FAULT_OF(softly);
}

rgp_status rgp_softly_check(const rgp_softly_config *config)
{
    return rgp_softly_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

rgp_reading rgp_softly_step(const rgp_softly_config *config, rgp_reading in)
{
    return (rgp_reading){in.value / config->by, in.quality};
}
