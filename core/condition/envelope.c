/* envelope (the size of a swing): the check of its settings, and its reset. */
#include "rigpulse/condition/envelope.h"
#include "rigpulse/inside/settings.h"

const char *rgp_envelope_fault(const rgp_envelope_config *c)
{
    return RGP_FAULT_OF(envelope);
}

rgp_status rgp_envelope_check(const rgp_envelope_config *config)
{
    return rgp_envelope_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_envelope_reset(rgp_envelope_state *state)
{
    *state = (rgp_envelope_state){0};
}
