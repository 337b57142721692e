/* The inside of rigpulse/drive/claim.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_DRIVE_CLAIM_H
#define RIGPULSE_INSIDE_DRIVE_CLAIM_H

#include "rigpulse/drive/claim.h"

RGP_DECLARATIONS_BEGIN

static inline uint32_t rgp_claim_owner(const rgp_claim *claim, uint32_t count)
{
    uint32_t i = 0;
    while (i < count && !claim[i].active) {
        i++;
    }
    return i;
}

RGP_DECLARATIONS_END

#endif
