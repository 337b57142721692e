/* A stage's knowledge or count, as it survives a power cycle. A block that has such writes it by rgp_NAME_retain() and
 * takes it up by rgp_NAME_restore(); for all stages of a rig rgp_engine_retain() and rgp_engine_restore() do that, with
 * a checksum and the names of the signals, so that a block of another rig is not taken up. */
#ifndef RIGPULSE_RETAINED_H
#define RIGPULSE_RETAINED_H

#include "rigpulse/linkage.h"

#include <stdint.h>

RGP_DECLARATIONS_BEGIN

/* As much as any block retains; what the fields mean is the block's. */
typedef struct rgp_retained {
    float a, b;     /* what the block says, in its input's unit */
    uint32_t count; /* likewise a count */
} rgp_retained;

RGP_DECLARATIONS_END

#endif
