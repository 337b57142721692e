/* News of a stage that learns while it runs (zero, span). */
#ifndef RIGPULSE_LEARNING_H
#define RIGPULSE_LEARNING_H

#include "rigpulse/linkage.h"

#include <stdint.h>

RGP_DECLARATIONS_BEGIN

/* It goes on learning, or has nothing new; it has learned; it has not, and begins anew; it has not, and gave up. */
enum { RGP_LEARNING_ON, RGP_LEARNING_DONE, RGP_LEARNING_ANEW, RGP_LEARNING_GAVE_UP };

typedef struct rgp_learning {
    uint8_t what;  /* RGP_LEARNING_... */
    uint8_t going; /* 1: there will be more */
    float value;   /* input unit: what was learned; of GAVE_UP and ANEW how far it moved */
} rgp_learning;

RGP_DECLARATIONS_END

#endif
