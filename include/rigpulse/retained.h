/* A stage's knowledge or count, as it survives a power cycle. */
#ifndef RIGPULSE_KEPT_H
#define RIGPULSE_KEPT_H

#include "rigpulse/linkage.h"

#include <stdint.h>

RGP_DECLARATIONS_BEGIN

typedef struct rgp_retained {
    float a, b;
    uint32_t count;
} rgp_retained;

RGP_DECLARATIONS_END

#endif
