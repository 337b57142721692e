/* The layout of the caller's memory block: byte offsets, the same on every machine. Each run's
 * states start on a multiple of 8, from `state` on, in the order of the runs. */
#ifndef RIGPULSE_ENGINE_LAYOUT_H
#define RIGPULSE_ENGINE_LAYOUT_H

#include "rigpulse/image.h"

typedef struct rp_layout {
    uint32_t claim_until, pulse, vet, fault_us, fault, blocked, value, raw, claim_value, claim_by, owner, quality,
        claim_active, claim_since, credit, relief, stall, edges, live, state, wanted, plain, sequence, counter,
        state_next, link, shaped, driven_us, guarding, param_next, param_asked;
    uint32_t size;
} rp_layout;

rp_layout rp_image_layout(const rp_image_header *image);

#endif
